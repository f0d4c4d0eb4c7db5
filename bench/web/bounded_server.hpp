// SPDX-License-Identifier: MIT
/// \file
/// A server that nobody can make wait, or hold much: of each request only so many bytes in so long
/// a time, and of each client only so many connections.
#pragma once

#include <httplib.h>

#include <cstddef>
#include <cstdint>
#include <map>
#include <mutex>
#include <string>

namespace zorilla::bench::web {

class BoundedServer : public httplib::Server {
  public:
    /// Bytes of a request, its header and body together.
    static constexpr size_t most_bytes = 16'384;
    /// Bytes of a body.
    static constexpr size_t most_body = 4096;
    /// Milliseconds from the first byte of a request to its last one.
    static constexpr int64_t longest_request = 10'000;
    /// Connections of one address. A browser opens six.
    static constexpr size_t most_connections = 24;

    /// Why a request is not even read; null if it may be. Bodies that unfold on reading, and parts
    /// of answers, are not needed here, and could take any amount of memory.
    static const char* refused(const httplib::Request& request);

  private:
    bool process_and_close_socket(socket_t sock) override;
    bool enters(const std::string& address);
    void leaves(const std::string& address);

    std::mutex guard_;
    std::map<std::string, size_t> connections_; ///< of each address
};

} // namespace zorilla::bench::web
