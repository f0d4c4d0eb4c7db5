// SPDX-License-Identifier: MIT
#include "tests/speed/by_hand.hpp"

#include "examples/hen_house/hen_house.hpp"

#include <cstdio>
#include <fstream>
#include <map>
#include <sstream>
#include <stdexcept>

namespace speed {

namespace {

using namespace zorilla;

std::string whole_file(const std::string& path) {
    std::ifstream file(path, std::ios::binary);
    if (!file)
        throw std::runtime_error(path + " cannot be read");
    std::ostringstream out;
    out << file.rdbuf();
    return std::move(out).str();
}

/// Goes through the fields of a trace.
class Fields {
  public:
    explicit Fields(const std::string& text) : at_(text.data()), end_(at_ + text.size()) {
        skip_line();
    }
    bool more() const { return at_ < end_; }
    void skip_line() {
        while (at_ < end_ && *at_++ != '\n') {
        }
    }
    bool none() const { return *at_ == 'n'; }
    bool empty() const { return *at_ == ',' || *at_ == '\n'; }
    uint64_t number(int base = 10) {
        uint64_t out = 0;
        for (; *at_ != ',' && *at_ != '\n'; ++at_)
            out = out * static_cast<unsigned>(base) +
                  static_cast<unsigned>(*at_ <= '9' ? *at_ - '0' : *at_ - 'a' + 10);
        ++at_;
        return out;
    }
    void skip() {
        while (*at_ != ',' && *at_ != '\n')
            ++at_;
        ++at_;
    }

    Sample code() {
        if (!empty())
            return Sample(static_cast<uint16_t>(number()));
        skip();
        return {};
    }
    LevelSample level() {
        if (!empty())
            return LevelSample(number() != 0 ? Level::high : Level::low);
        skip();
        return {};
    }
    Echo echo() {
        if (!empty() && !none()) {
            const uint64_t width = number();
            return width == 0 ? Echo::none() : Echo(static_cast<uint16_t>(width));
        }
        const bool silent = none();
        skip();
        return silent ? Echo::none() : Echo();
    }
    FrameSample frame() {
        if (empty() || none()) {
            const bool silent = none();
            skip();
            return silent ? FrameSample::silent() : FrameSample();
        }
        const uint64_t bits = number(16);
        Frame out;
        for (int i = 0; i < 5; ++i)
            out.bytes[i] = static_cast<uint8_t>(bits >> (32 - 8 * i));
        return FrameSample(out);
    }

  private:
    const char* at_;
    const char* end_;
};

} // namespace

uint64_t decide_by_hand(const std::string& trace) {
    const std::string text = whole_file(trace);
    Fields fields(text);
    hen_house::Device device;
    uint64_t sum = 0;
    while (fields.more()) {
        const Instant now(static_cast<uint32_t>(fields.number() * 1000));
        hen_house::Inputs in;
        in.roost = fields.code();
        in.yard_light = fields.code();
        in.litter = fields.frame();
        in.barrel = fields.echo();
        in.ammonia = fields.code();
        in.air_button = fields.level();
        in.hush_button = fields.level();
        device.pass(now, in);
        sum += static_cast<uint64_t>(device.watch.state()) +
               static_cast<uint64_t>(device.heat_lamp.value()) +
               static_cast<uint64_t>(device.water_valve.value()) +
               device.dusk_lamp.value().of_255() + device.ventilator.value().of_255() +
               device.buzzer.value().hertz + device.status.value().green.of_255();
    }
    return sum;
}

Table::Table(const std::string& path) {
    const std::string text = whole_file(path);
    std::map<std::string, uint32_t, std::less<>> places;
    size_t at = text.find('\n') + 1;
    header_ = text.substr(0, at);
    for (size_t line = 0; at < text.size(); ++line) {
        for (bool more = true; more;) {
            // Within quotes a comma is none.
            const size_t end =
                text.find_first_of(",\n", text[at] == '"' ? text.find('"', at + 1) : at);
            more = text[end] == ',';
            const std::string_view field = std::string_view(text).substr(at, end - at);
            const size_t point = field.find('.');
            if (point != std::string_view::npos && field.size() == point + 4) {
                std::string digits(field);
                digits.erase(point, 1);
                fields_.push_back({std::stoll(digits), 0});
            } else {
                const auto [place, is_new] =
                    places.try_emplace(std::string(field), static_cast<uint32_t>(words_.size()));
                if (is_new)
                    words_.emplace_back(field);
                fields_.push_back({0, place->second});
            }
            at = end + 1;
        }
        if (line == 0)
            columns_ = fields_.size();
    }
}

void Table::write(const std::string& path) const {
    std::FILE* file = std::fopen(path.c_str(), "wb");
    if (file == nullptr)
        throw std::runtime_error(path + " cannot be written");
    std::string out = header_;
    char digits[24];
    for (size_t i = 0; i < fields_.size(); ++i) {
        const Field& field = fields_[i];
        if (field.word != 0) {
            out += words_[field.word];
        } else {
            char* at = digits + sizeof digits;
            auto number = static_cast<uint64_t>(field.thousandths < 0 ? -field.thousandths
                                                                      : field.thousandths);
            for (int n = 0; n < 5 || number > 0; ++n) {
                if (n == 3) {
                    *--at = '.';
                    continue;
                }
                *--at = static_cast<char>('0' + number % 10);
                number /= 10;
            }
            if (field.thousandths < 0)
                *--at = '-';
            out.append(at, digits + sizeof digits);
        }
        out += (i + 1) % columns_ == 0 ? '\n' : ',';
        if (out.size() > 1 << 16) {
            std::fwrite(out.data(), 1, out.size(), file);
            out.clear();
        }
    }
    std::fwrite(out.data(), 1, out.size(), file);
    std::fclose(file);
}

} // namespace speed
