#include "desktop/controls/screen_colour.h"

#include <algorithm>
#include <cmath>

namespace ember {

QColor screen_colour(const Colour& colour) {
    const float brightest = std::max({colour.red, colour.green, colour.blue, 1.0f});
    const auto encoded = [brightest](float linear) {
        const float c = linear / brightest;
        return c <= 0.0031308f ? 12.92f * c : 1.055f * std::pow(c, 1 / 2.4f) - 0.055f;
    };
    return QColor::fromRgbF(encoded(colour.red), encoded(colour.green), encoded(colour.blue));
}

float strength_of(const Colour& colour) {
    return std::max({colour.red, colour.green, colour.blue});
}

Colour tint_of(const Colour& colour) {
    const float strength = strength_of(colour);
    return strength <= 0
               ? Colour{1, 1, 1, colour.alpha}
               : Colour{colour.red / strength, colour.green / strength, colour.blue / strength, colour.alpha};
}

Colour linear_colour(const QColor& colour) {
    const auto linear = [](float c) {
        return c <= 0.04045f ? c / 12.92f : std::pow((c + 0.055f) / 1.055f, 2.4f);
    };
    return {linear(float(colour.redF())), linear(float(colour.greenF())), linear(float(colour.blueF())), 1};
}

} // namespace ember
