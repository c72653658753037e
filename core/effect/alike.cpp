#include "core/effect/alike.h"

#include "core/effect/track.h"

#include <algorithm>
#include <limits>

namespace ember {

namespace {

constexpr double always = std::numeric_limits<double>::infinity();

// A key bends the curve on either side of its neighbours too.
double alike_until_s(const Curve& a, const Curve& b, bool switches) {
    const auto [in_a, in_b] =
        std::mismatch(a.points.begin(), a.points.end(), b.points.begin(), b.points.end());
    const bool ends_a = in_a == a.points.end(), ends_b = in_b == b.points.end();
    if (ends_a && ends_b) {
        return always;
    }
    const auto same = in_a - a.points.begin();
    if (same == 0) {
        return -always;
    }
    if (!switches) {
        return double(a.points[size_t(std::max<std::ptrdiff_t>(same - 2, 0))].time);
    }
    return std::min(ends_a ? always : double(in_a->time), ends_b ? always : double(in_b->time));
}

double alike_until_s(const Effect& effect, const Track& a, const Track& b) {
    const auto holder = find_holder(effect, a.holder);
    const Parameter* parameter = holder ? holder->find(a.parameter) : nullptr;
    if (parameter == nullptr || a.curves.size() != b.curves.size()) {
        return -always;
    }
    double until = always;
    for (size_t i = 0; i < a.curves.size(); ++i) {
        until = std::min(until, alike_until_s(a.curves[i], b.curves[i], switches(*parameter)));
    }
    return until;
}

double tracks_alike_until_s(const Effect& a, const Effect& b) {
    if (a.tracks.size() != b.tracks.size()) {
        return -always;
    }
    double until = always;
    for (const Track& track : a.tracks) {
        const Track* other = find_track(b, track.holder, track.parameter);
        until = std::min(until, other != nullptr ? alike_until_s(a, track, *other) : -always);
    }
    return until;
}

// Whether anything changes what the element does over time.
bool is_steered(const Effect& effect, const std::string& id) {
    const auto steers_it = [&](const Element& each) {
        const auto* trigger = std::get_if<Trigger>(&each.body);
        return trigger != nullptr && trigger->what == id;
    };
    return std::any_of(effect.drives.begin(), effect.drives.end(),
                       [&](const Drive& drive) { return drive.holder == id; }) ||
           std::any_of(effect.tracks.begin(), effect.tracks.end(),
                       [&](const Track& track) { return track.holder == id; }) ||
           std::any_of(effect.elements.begin(), effect.elements.end(), steers_it);
}

// When an element begins to do anything at all; minus infinite if from the start.
double begins_s(const Element& element) {
    if (const auto* trigger = std::get_if<Trigger>(&element.body)) {
        return trigger->when == TriggerWhen::at_time ? double(trigger->at) : -always;
    }
    if (const ClipPlay* clip = clip_of(element.body)) {
        return double(clip->clip_start);
    }
    if (const auto* emitter = std::get_if<Emitter>(&element.body)) {
        return emitter->begins == Begin::at_time && emitter->parent.empty() ? double(emitter->start)
                                                                            : -always;
    }
    return -always;
}

double alike_until_s(const Effect& effect, const Element& a, const Element& b) {
    if (a == b) {
        return always;
    }
    Element other = a;
    other.body = b.body;
    return other == b && !is_steered(effect, a.id) ? std::min(begins_s(a), begins_s(b)) : -always;
}

} // namespace

double alike_until_s(const Effect& a, const Effect& b) {
    const auto are_the_same = [](const Element& one, const Element& other) { return one.id == other.id; };
    if (a.looks != b.looks || a.drives != b.drives || a.textures != b.textures || a.seed != b.seed ||
        static_cast<const WaysToGive&>(a.budget) != static_cast<const WaysToGive&>(b.budget) ||
        !std::equal(a.elements.begin(), a.elements.end(), b.elements.begin(), b.elements.end(),
                    are_the_same)) {
        return -always;
    }
    double until = tracks_alike_until_s(a, b);
    for (size_t i = 0; i < a.elements.size(); ++i) {
        until = std::min(until, alike_until_s(a, a.elements[i], b.elements[i]));
    }
    return until;
}

} // namespace ember
