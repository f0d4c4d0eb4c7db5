// SPDX-License-Identifier: MIT
/// \file
/// Reading a file ahead, on a core of its own, while the rows before are looked at.
#pragma once

#include <algorithm>
#include <array>
#include <condition_variable>
#include <cstddef>
#include <cstdint>
#include <exception>
#include <filesystem>
#include <mutex>
#include <string>
#include <thread>
#include <utility>
#include <vector>

namespace zorilla::bench {

/// The rows of a reader, in their order and with its complaints where they belong, as if it were
/// asked row by row. A file is read ahead by some thousand rows; from a pipe a row is taken as it
/// comes. The reader must not be used until the last row, and must outlive this object.
///
/// A reader has `Row`, which is a `Head` and a pointer `values` to `width()` of them, `row()`,
/// `put_head()`, `next()`, `path()`, and `set_complaint()`, which returns the one before.
template <class Reader> class RowsAhead {
  public:
    using Row = typename Reader::Row;

    explicit RowsAhead(Reader& reader)
        : reader_(reader), width_(reader.width()),
          is_file_(std::filesystem::is_regular_file(reader.path())), most_(is_file_ ? 1024 : 1),
          complain_(reader.set_complaint([this](uint64_t line, const std::string& text) {
              filling_->complaints.push_back({filling_->count, line, text});
          })) {}
    RowsAhead(const RowsAhead&) = delete;
    RowsAhead& operator=(const RowsAhead&) = delete;
    ~RowsAhead() {
        {
            const std::lock_guard<std::mutex> lock(mutex_);
            stopped_ = true;
        }
        turned_.notify_all();
        if (thread_.joinable())
            thread_.join();
        reader_.set_complaint(std::move(complain_));
    }

    /// Goes to the next row; false at the end. \throws whatever the reader throws
    bool next() {
        if (at_ == until_ && !turn())
            return false;
        const typename Reader::Head* const head = batch_->heads.data() + at_;
        const typename Reader::Value* const values = batch_->values.data() + at_ * width_;
        if (at_ + soon < batch_->count) {
            // What the other core has written takes its time to come over.
            __builtin_prefetch(head + soon);
            __builtin_prefetch(values + soon * width_);
        }
        static_cast<typename Reader::Head&>(row_) = *head;
        row_.values = values;
        ++at_;
        return true;
    }
    const Row& row() const { return row_; }

  private:
    struct Complained {
        size_t before; ///< that many rows of the batch
        uint64_t line;
        std::string text;
    };
    /// What one core writes is not in a line of the cache with what the other one reads.
    static constexpr size_t apart = 64;
    static constexpr size_t soon = 32; ///< rows
    struct alignas(apart) Batch {
        std::vector<typename Reader::Head> heads;
        std::vector<typename Reader::Value> values;
        size_t count = 0; ///< of the rows that are in it
        std::vector<Complained> complaints;
        std::exception_ptr failed;
        bool is_last = false;
    };

    void fill(Batch& batch) {
        filling_ = &batch;
        batch.heads.resize(most_);
        batch.values.resize(most_ * width_);
        batch.complaints.clear();
        batch.count = 0;
        try {
            typename Reader::Value* values = batch.values.data();
            for (typename Reader::Head& head : batch.heads) {
                if (!reader_.next()) {
                    batch.is_last = true;
                    break;
                }
                reader_.put_head(head);
                values = std::copy_n(reader_.row().values, width_, values);
                ++batch.count;
            }
        } catch (...) {
            batch.failed = std::current_exception();
            batch.is_last = true;
        }
    }

    /// Fills one batch after the other, as long as there is room.
    void read() {
        for (bool goes_on = true; goes_on;) {
            Batch* batch = nullptr;
            {
                std::unique_lock<std::mutex> lock(mutex_);
                turned_.wait(lock,
                             [this] { return stopped_ || filled_ - taken_ < batches_.size(); });
                if (stopped_)
                    return;
                batch = &batches_[filled_ % batches_.size()];
            }
            fill(*batch);
            goes_on = !batch->is_last;
            {
                const std::lock_guard<std::mutex> lock(mutex_);
                ++filled_;
            }
            turned_.notify_all();
        }
    }

    /// Tells what there is to complain of before the next row, and sees to it that there is one.
    bool turn() {
        while (true) {
            for (; told_ < batch_->complaints.size() && batch_->complaints[told_].before <= at_;
                 ++told_)
                complain_(batch_->complaints[told_].line, batch_->complaints[told_].text);
            until_ = told_ < batch_->complaints.size() ? batch_->complaints[told_].before
                                                       : batch_->count;
            if (at_ < until_)
                return true;
            if (batch_->failed)
                std::rethrow_exception(batch_->failed);
            if (batch_->is_last)
                return false;
            take_batch();
        }
    }

    void take_batch() {
        at_ = told_ = 0;
        // Nothing is started for the first rows, which are all of a short file.
        if (!is_file_ || batch_ == &begun_) {
            batch_ = &first_;
            return fill(first_);
        }
        if (!thread_.joinable())
            thread_ = std::thread([this] { read(); });
        {
            std::unique_lock<std::mutex> lock(mutex_);
            taken_ += batch_ != &first_ ? 1 : 0;
            turned_.notify_all();
            turned_.wait(lock, [this] { return filled_ > taken_; });
        }
        batch_ = &batches_[taken_ % batches_.size()];
    }

    Reader& reader_;
    const size_t width_;
    const bool is_file_;
    const size_t most_; ///< rows of a batch
    typename Reader::Complaint complain_;
    Batch* filling_ = nullptr;
    std::array<Batch, 4> batches_;
    Batch first_;
    Batch begun_; ///< nothing

    alignas(apart) Batch* batch_ = &begun_; ///< the one that is looked at
    size_t at_ = 0;                         ///< rows of it that are taken
    size_t until_ = 0;                      ///< so many can be taken at once
    size_t told_ = 0;                       ///< complaints of it that are told
    Row row_{};

    alignas(apart) std::mutex mutex_;
    std::condition_variable turned_; ///< a batch is filled, or free
    uint64_t filled_ = 0, taken_ = 0;
    bool stopped_ = false;
    std::thread thread_;
};

} // namespace zorilla::bench
