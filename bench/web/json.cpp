// SPDX-License-Identifier: MIT
// What is read and answered as JSON by the server itself.
#include "bench/web/inside.hpp"

#include <nlohmann/json.hpp>

namespace zorilla::bench::web {

using nlohmann::json;

void say(httplib::Response& response, int status, const char* key, const std::string& text) {
    response.status = status;
    response.set_content(json{{key, text}}.dump(-1, ' ', false, json::error_handler_t::replace),
                         "application/json");
}

std::string text_in(const std::string& body, const char* key) {
    const json object = json::parse(body, nullptr, false);
    const auto found = object.is_object() ? object.find(key) : object.end();
    return found != object.end() && found->is_string() ? found->get<std::string>() : "";
}

} // namespace zorilla::bench::web
