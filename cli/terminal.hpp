// SPDX-License-Identifier: MIT
/// \file
/// A terminal that is drawn on over and over, and its keyboard.
#pragma once

#include <string>
#include <string_view>
#include <termios.h>

namespace zorilla::cli {

/// How many characters a text takes on the screen.
size_t screen_width(std::string_view text);

class Terminal {
  public:
    /// Takes over standard output and the keyboard, if both are terminals.
    /// \param data_is_input  whether standard input brings the data, and so no keys
    explicit Terminal(bool data_is_input);
    ~Terminal();
    Terminal(const Terminal&) = delete;
    Terminal& operator=(const Terminal&) = delete;

    bool shows() const { return shows_; }
    /// Where keys come from; -1 if there is no keyboard.
    int keyboard() const { return keyboard_; }
    /// Whether it knows more than ASCII.
    bool blocks() const { return blocks_; }
    std::string bold(const std::string& text) const { return painted(text, 1); }
    std::string faint(const std::string& text) const { return painted(text, 2); }
    std::string warning(const std::string& text) const { return painted(text, 33); }

    struct Size {
        int columns = 80, rows = 24;
    };
    static Size size();
    static void put(std::string_view text);
    /// The keys that were pressed, without waiting.
    std::string read_keys() const;

  private:
    std::string painted(const std::string& text, int code) const;

    bool shows_ = false;
    bool colour_ = false;
    bool blocks_ = false;
    int keyboard_ = -1;
    bool own_keyboard_ = false;
    termios before_{};
};

/// A line that is being typed.
class TypedLine {
  public:
    /// Takes a key. \return  whether that ends the line
    bool take(char key);
    const std::string& text() const { return text_; }
    void set(std::string text) { text_ = std::move(text); }

  private:
    std::string text_;
};

} // namespace zorilla::cli
