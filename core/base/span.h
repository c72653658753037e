// A part of the time.
#pragma once

namespace ember {

/// On the artist's clock (s); it begins at 0 or later.
struct Span {
    double from_s = 0, to_s = 4;
    bool operator==(const Span&) const = default;
};

} // namespace ember
