// SPDX-License-Identifier: MIT
/// \file
/// Devices that are watched, in a browser (docs/live.md).
#pragma once

#include "bench/web/door.hpp"
#include "bench/web/told.hpp"

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace zorilla::bench {

/// A server of its own threads. Whoever watches tells it what is new and takes what was asked for.
class WebPage {
  public:
    /// \throws rig::InputError  if it cannot listen there
    explicit WebPage(const WebPlan& plan);
    ~WebPage();
    WebPage(const WebPage&) = delete;
    WebPage& operator=(const WebPage&) = delete;

    /// Where it is: "http://127.0.0.1:8080/".
    std::string address() const;
    /// The next device. \param rig  must outlive this
    void add(const rig::Rig& rig);
    /// Begins to let people in; all devices are there.
    void open();
    void remember(size_t device, History& history, int64_t utc);
    void show(size_t device, const Watched& watched, const std::string& line, int64_t utc);
    void event(size_t device, const Event& event, int64_t utc);

    /// What somebody has asked for.
    struct Asked {
        size_t device;
        std::string command;         ///< for the device
        std::optional<Question> why; ///< or a question for whoever watches
        std::function<void(const std::string&)> answer;
    };
    /// What came since the last call.
    std::vector<Asked> take();
    /// Readable once something was asked.
    int descriptor() const;

  private:
    struct Inside;
    std::unique_ptr<Inside> inside_;
};

/// A file of the page, as it was built in.
struct WebFile {
    std::string_view path, type, text;
};
std::vector<WebFile> web_files();

/// All devices in the OpenMetrics text format 1.0.
std::string open_metrics(const std::vector<std::unique_ptr<Told>>& devices);

} // namespace zorilla::bench
