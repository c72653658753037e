#include "core/scene/clip_time.h"

#include <algorithm>
#include <cmath>

namespace ember {

ClipPart played_part(const ClipPlay& play, double clip_length_s) {
    const double to = play.clip_to > 0 ? std::min(double(play.clip_to), clip_length_s) : clip_length_s;
    return {std::min(double(play.clip_from), to), to};
}

std::optional<ClipTime> clip_time(const ClipPlay& play, double frames_per_s, size_t frames, double time_s) {
    const ClipPart part = played_part(play, double(frames) / frames_per_s);
    const double long_s = part.length_s();
    double played_s = (time_s - double(play.clip_start)) * double(play.clip_speed);
    if (played_s < 0 || long_s <= 0) {
        return std::nullopt;
    }
    uint32_t round = 0;
    if (played_s >= long_s) {
        switch (play.clip_end) {
        case ClipEnd::gone:
            return std::nullopt;
        case ClipEnd::held:
            played_s = long_s;
            break;
        case ClipEnd::again:
            round = uint32_t(std::min(played_s / long_s, 1e9));
            played_s -= double(round) * long_s;
            break;
        }
    }
    const double last = double(frames) - 1;
    double frame = (part.from_s + played_s) * frames_per_s;
    // Times that are those of a frame but for rounding show that frame.
    constexpr double rounding = 1e-6;
    frame = std::abs(frame - std::round(frame)) < rounding ? std::round(frame) : frame;
    return ClipTime{std::min(frame, last), round};
}

} // namespace ember
