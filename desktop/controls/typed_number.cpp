#include "desktop/controls/typed_number.h"

#include <QLocale>

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>
#include <string_view>

namespace ember {

namespace {

enum class Quantity { length, time, speed, acceleration, angle, spin, rate, share };

struct Unit {
    std::string_view name;
    Quantity quantity;
    double factor; // to the first unit of its quantity
};

// A name may stand for several quantities.
constexpr std::array units = {
    Unit{"m", Quantity::length, 1},
    Unit{"mm", Quantity::length, 0.001},
    Unit{"cm", Quantity::length, 0.01},
    Unit{"km", Quantity::length, 1000},
    Unit{"s", Quantity::time, 1},
    Unit{"ms", Quantity::time, 0.001},
    Unit{"min", Quantity::time, 60},
    Unit{"h", Quantity::time, 3600},
    Unit{"m/s", Quantity::speed, 1},
    Unit{"cm/s", Quantity::speed, 0.01},
    Unit{"mm/s", Quantity::speed, 0.001},
    Unit{"km/h", Quantity::speed, 1 / 3.6},
    Unit{"m/s\u00b2", Quantity::acceleration, 1},
    Unit{"m/s^2", Quantity::acceleration, 1},
    Unit{"m/s2", Quantity::acceleration, 1},
    Unit{"g", Quantity::acceleration, 9.80665},
    Unit{"deg", Quantity::angle, 1},
    Unit{"\u00b0", Quantity::angle, 1},
    Unit{"rad", Quantity::angle, 180 / std::numbers::pi},
    Unit{"turn", Quantity::angle, 360},
    Unit{"turns", Quantity::angle, 360},
    Unit{"deg/s", Quantity::spin, 1},
    Unit{"rad/s", Quantity::spin, 180 / std::numbers::pi},
    Unit{"rpm", Quantity::spin, 6},
    Unit{"turns/s", Quantity::spin, 360},
    Unit{"1/s", Quantity::rate, 1},
    Unit{"/s", Quantity::rate, 1},
    Unit{"Hz", Quantity::rate, 1},
    Unit{"1/min", Quantity::rate, 1.0 / 60},
    Unit{"/min", Quantity::rate, 1.0 / 60},
    Unit{"rpm", Quantity::rate, 1.0 / 60},
    Unit{"", Quantity::share, 1},
    Unit{"%", Quantity::share, 0.01},
};

// From one unit to another by name; nothing if no quantity has both.
std::optional<double> factor_between(std::string_view from, std::string_view to) {
    if (from == to) {
        return 1;
    }
    for (const Unit& a : units) {
        for (const Unit& b : units) {
            if (a.name == from && b.name == to && a.quantity == b.quantity) {
                return a.factor / b.factor;
            }
        }
    }
    return std::nullopt;
}

// Recursive descent; every part returns nothing once something is wrong.
class Parser {
  public:
    Parser(std::string_view text, std::string_view unit) : rest_(text), unit_(unit) {}

    std::optional<double> whole() {
        const auto value = sum();
        skip();
        return value && rest_.empty() && std::isfinite(*value) ? value : std::nullopt;
    }

  private:
    void skip() {
        while (!rest_.empty() && rest_.front() == ' ') {
            rest_.remove_prefix(1);
        }
    }
    bool take(char c) {
        skip();
        const bool is_next = !rest_.empty() && rest_.front() == c;
        rest_.remove_prefix(is_next ? 1 : 0);
        return is_next;
    }

    std::optional<double> sum() {
        auto value = product();
        while (value) {
            const double sign = take('+') ? 1 : take('-') ? -1 : 0;
            if (sign == 0) {
                break;
            }
            const auto next = product();
            value = next ? std::optional(*value + sign * *next) : std::nullopt;
        }
        return value;
    }

    std::optional<double> product() {
        auto value = signed_part();
        while (value) {
            const bool multiplies = take('*');
            if (!multiplies && !take('/')) {
                break;
            }
            const auto next = signed_part();
            value = next ? std::optional(multiplies ? *value * *next : *value / *next) : std::nullopt;
        }
        return value;
    }

    std::optional<double> signed_part() {
        // Deep nesting is no number that anybody means.
        if (++depth_ > 64) {
            return std::nullopt;
        }
        if (take('-')) {
            const auto value = signed_part();
            return value ? std::optional(-*value) : std::nullopt;
        }
        if (take('+')) {
            return signed_part();
        }
        if (take('(')) {
            const auto value = sum();
            return take(')') ? value : std::nullopt;
        }
        return number();
    }

    std::optional<double> number() {
        skip();
        size_t length = 0;
        const auto is_digit = [this](size_t at) {
            return at < rest_.size() && rest_[at] >= '0' && rest_[at] <= '9';
        };
        while (is_digit(length) || (length < rest_.size() && rest_[length] == '.')) {
            ++length;
        }
        if (length > 0 && length < rest_.size() && (rest_[length] == 'e' || rest_[length] == 'E')) {
            const size_t sign =
                length + 1 < rest_.size() && (rest_[length + 1] == '-' || rest_[length + 1] == '+') ? 1 : 0;
            if (is_digit(length + 1 + sign)) {
                length += 1 + sign;
                while (is_digit(length)) {
                    ++length;
                }
            }
        }
        bool is_number = false;
        const double value =
            QLocale::c().toDouble(QLatin1String(rest_.data(), qsizetype(length)), &is_number);
        rest_.remove_prefix(length);
        return is_number ? with_unit(value) : std::nullopt;
    }

    // The longest name that follows and goes together with the field's unit.
    std::optional<double> with_unit(double value) {
        skip();
        std::string_view longest;
        for (const Unit& unit : units) {
            if (rest_.starts_with(unit.name) && unit.name.size() > longest.size() &&
                factor_between(unit.name, unit_)) {
                longest = unit.name;
            }
        }
        // Frames a second for the time of one.
        if (constexpr std::string_view fps = "fps"; unit_ == "ms" && rest_.starts_with(fps)) {
            rest_.remove_prefix(fps.size());
            return 1000 / value;
        }
        // A thousand and a million of whatever it is.
        if (longest.empty() && !rest_.empty() && (rest_.front() == 'k' || rest_.front() == 'M')) {
            const double many = rest_.front() == 'k' ? 1e3 : 1e6;
            rest_.remove_prefix(1);
            return value * many;
        }
        rest_.remove_prefix(longest.size());
        return longest.empty() ? value : value * *factor_between(longest, unit_);
    }

    std::string_view rest_;
    std::string_view unit_;
    int depth_ = 0;
};

} // namespace

std::optional<double> typed_number(const QString& text, const QString& unit) {
    // A comma for a point.
    const std::string plain = text.trimmed().replace(',', '.').toStdString();
    const std::string own = unit.toStdString();
    return Parser(plain, own).whole();
}

QString shown_number(double number, bool whole) {
    constexpr int digits = 6;
    const auto fixed = [](double value) {
        const int before = value == 0 ? 1 : int(std::floor(std::log10(std::fabs(value)))) + 1;
        QString text = QString::number(value, 'f', std::clamp(digits - before, 0, 12));
        if (text.contains(QLatin1Char('.'))) {
            while (text.endsWith(QLatin1Char('0'))) {
                text.chop(1);
            }
            if (text.endsWith(QLatin1Char('.'))) {
                text.chop(1);
            }
        }
        return text;
    };
    const QString all = whole ? QString::number(number, 'f', 0) : fixed(number);
    if (std::fabs(number) < 1e6) {
        return all;
    }
    const QString millions = fixed(number / 1e6);
    const bool says_all = millions.toDouble() * 1e6 == number || !whole;
    return says_all && millions.size() + 2 < all.size() ? millions + QStringLiteral(" M") : all;
}

} // namespace ember
