// SPDX-License-Identifier: MIT
/// \file
/// A part with a state of its own that is copied with whoever has it.
#pragma once

#include <memory>
#include <utility>

namespace zorilla::rig {

/// Owns a `T`, or nothing. \tparam T  has `std::unique_ptr<T> copy() const`
template <class T> class Own {
  public:
    Own() = default;
    Own(std::nullptr_t) {}
    template <class D> Own(std::unique_ptr<D> of) : of_(std::move(of)) {}
    Own(const Own& other) : of_(other.of_ ? other.of_->copy() : nullptr) {}
    Own(Own&&) noexcept = default;
    Own& operator=(Own other) noexcept {
        of_ = std::move(other.of_);
        return *this;
    }
    ~Own() = default;

    explicit operator bool() const { return of_ != nullptr; }
    T* operator->() const { return of_.get(); }

  private:
    std::unique_ptr<T> of_;
};

} // namespace zorilla::rig
