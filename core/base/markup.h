// Texts within files of other formats.
#pragma once

#include <cstdint>
#include <string>

namespace ember {

/// As a cell of a CSV file (RFC 4180): what has a comma, a quote or a line break stands in quotes, and quotes
/// in it are doubled.
inline std::string csv_cell(const std::string& text) {
    if (text.find_first_of(",\"\r\n") == std::string::npos) {
        return text;
    }
    std::string quoted = "\"";
    for (const char c : text) {
        quoted += c == '"' ? "\"\"" : std::string(1, c);
    }
    return quoted + "\"";
}

/// Within XML or HTML, in an attribute too; what neither may hold becomes a space.
inline std::string markup_text(const std::string& text) {
    std::string result;
    for (const char c : text) {
        switch (c) {
        case '&':
            result += "&amp;";
            break;
        case '<':
            result += "&lt;";
            break;
        case '>':
            result += "&gt;";
            break;
        case '"':
            result += "&quot;";
            break;
        default:
            result += uint8_t(c) < 0x20 ? ' ' : c;
        }
    }
    return result;
}

} // namespace ember
