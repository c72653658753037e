// Breakables: what comes to rest, and goes.
#include "core/base/stopwatch.h"
#include "core/debris/debris_step.h"

#include <algorithm>

namespace ember::debris {

namespace {

// Lower than this nothing is seen again (m).
constexpr float abyss_m = -200;

// A body, or a light piece.
struct Subject {
    const Piece& first;
    Vec3 place;
    float speed;   // m/s
    size_t pieces; // that hang together
    int body;      // negative: it is light
};

struct Zone {
    ReachRow reach;
    const CleanupZone* zone;
    const std::string* id;
};

// What becomes of what is no longer needed; physics: it stays as it is.
PieceState fate_of(Step& step, const std::string& id, const Subject& subject,
                   const std::vector<Zone>& zones) {
    const Breakable& breakable = step.breakable(id);
    const Piece& first = subject.first;
    const Vec3& place = subject.place;
    if (place.y < abyss_m || !std::isfinite(place.x + place.y + place.z)) {
        return PieceState::gone;
    }
    if (!first.is_loose || !step.scene.cleans) {
        return PieceState::physics;
    }
    if (breakable.longest_life > 0 && step.now_s - first.born_s >= double(breakable.longest_life) - 1e-6) {
        step.state.tallies[id].take(subject.pieces, step.now_s);
        return PieceState::clearing;
    }
    PieceState fate = PieceState::physics;
    const float linger = drawn(breakable.linger, seed_of(step.effect, id), first.number, for_linger);
    if (first.rest_s >= 0 && breakable.at_rest != RestFate::stay &&
        step.now_s - first.rest_s >= double(linger) - 1e-6) {
        fate = breakable.at_rest == RestFate::park ? PieceState::parked : PieceState::clearing;
    }
    bool is_by_zone = false;
    for (const Zone& zone : zones) {
        const Stopwatch watch;
        Tally& tally = step.state.tallies[*zone.id];
        const bool is_in = step.scene.kernels.reach_share(zone.reach, place) > 0.5f;
        tally.ms += watch.elapsed_ms();
        if (!is_in) {
            continue;
        }
        if (zone.zone->fate == ZoneFate::call_back) {
            return fate == PieceState::parked ? PieceState::physics : fate;
        }
        if (subject.speed > zone.zone->below_speed) {
            continue;
        }
        if (zone.zone->fate == ZoneFate::doze) {
            if (subject.body >= 0) { // a light piece costs next to nothing
                tally.take(step.world.is_awake(subject.body) ? subject.pieces : 0, step.now_s);
                step.world.doze(subject.body);
            }
        } else {
            tally.take(subject.pieces, step.now_s);
            fate = zone.zone->fate == ZoneFate::park ? PieceState::parked : PieceState::clearing;
            is_by_zone = true;
        }
    }
    if (fate != PieceState::physics && !is_by_zone) {
        step.state.tallies[id].take(subject.pieces, step.now_s);
    }
    return fate;
}

// A parked piece, at the place where it was parked, is in the physics again.
void call_back(Step& step, const std::string& id, Instance& instance, uint32_t index) {
    Piece& piece = instance.pieces[index];
    const Placement at = piece.placement;
    const Vec3 centre = instance.cut->pieces[piece.cut_piece].centre;
    piece.state = PieceState::physics;
    piece.rest_s = -1;
    add_body(step, id, instance, {index}, {at.position - at.axes.out(centre), at.axes}, {}, {});
}

// What triggers tell breakables: parked pieces come back, loose ones go.
void obey(Step& step) {
    for (auto& [id, source] : step.state.sources) {
        const bool calls_back = times_told(step.scene.calls, TriggerThen::call_back, id) > 0,
                   clears = times_told(step.scene.calls, TriggerThen::clear, id) > 0;
        for (Instance& instance : source.instances) {
            for (uint32_t i = 0; i < instance.pieces.size() && (calls_back || clears); ++i) {
                const Piece& piece = instance.pieces[i];
                if (calls_back && piece.state == PieceState::parked) {
                    call_back(step, id, instance, i);
                }
                if (clears && piece.is_loose && piece.state <= PieceState::parked) {
                    leave(step, id, instance, i, PieceState::clearing);
                }
            }
        }
    }
}

void clean_out_of_physics(Step& step, const std::string& id, Instance& instance,
                          const std::vector<Zone>& zones) {
    const float longest = step.scene.cleans ? step.breakable(id).longest_life : 0;
    for (uint32_t i = 0; i < instance.pieces.size(); ++i) {
        Piece& piece = instance.pieces[i];
        if (piece.state == PieceState::light) {
            const PieceState fate =
                fate_of(step, id, {piece, piece.placement.position, length(piece.velocity), 1, -1}, zones);
            if (fate != PieceState::physics) {
                leave(step, id, instance, i, fate);
            }
        }
        const bool is_called =
            piece.state == PieceState::parked &&
            std::any_of(zones.begin(), zones.end(), [&](const Zone& zone) {
                return zone.zone->fate == ZoneFate::call_back &&
                       step.scene.kernels.reach_share(zone.reach, piece.placement.position) > 0.5f;
            });
        if (is_called) {
            call_back(step, id, instance, i);
        } else if (piece.state == PieceState::parked && longest > 0 &&
                   step.now_s - piece.born_s >= double(longest) - 1e-6) {
            leave(step, id, instance, i, PieceState::clearing);
        } else if (piece.state == PieceState::clearing &&
                   step.now_s - piece.clear_s >= double(piece.clear_for_s) - 1e-6) {
            piece.state = PieceState::gone;
        }
    }
}

void hold_capacity(Step& step, const std::string& id, Source& source) {
    struct Loose {
        Instance* instance;
        uint32_t piece;
        float order; // the least go first
    };
    const Breakable& breakable = step.breakable(id);
    const auto is_counted = [](const Piece& piece) {
        return piece.is_loose && piece.state <= PieceState::parked;
    };
    size_t count = 0;
    for (const Instance& instance : source.instances) {
        count += size_t(std::count_if(instance.pieces.begin(), instance.pieces.end(), is_counted));
    }
    const size_t capacity = step.capacity_of(breakable);
    if (count <= capacity) {
        return;
    }
    step.state.tallies[id].take(count - capacity, step.now_s);
    const Stage& stage = step.effect.stage;
    const Vec3 back = direction_from(stage.camera_azimuth, stage.camera_height);
    const Vec3 eye = stage.camera_target + back * stage.camera_distance;
    std::vector<Loose> loose;
    for (Instance& instance : source.instances) {
        for (uint32_t i = 0; i < instance.pieces.size(); ++i) {
            const Piece& piece = instance.pieces[i];
            if (!is_counted(piece)) {
                continue;
            }
            const Vec3 way = step.placement_of(instance, piece).position - eye;
            const float ahead = -dot(way, back) / std::max(length(way), 1e-6f);
            float order = float(piece.born_s);
            if (breakable.cap_takes == CapTakes::smallest) {
                order = instance.cut->pieces[piece.cut_piece].volume;
            } else if (breakable.cap_takes == CapTakes::farthest) {
                order = -length(way);
            } else if (breakable.cap_takes == CapTakes::unseen) {
                order = ahead; // the farther from the middle of the picture, the sooner
            }
            loose.push_back({&instance, i, order});
        }
    }
    std::stable_sort(loose.begin(), loose.end(),
                     [](const Loose& a, const Loose& b) { return a.order < b.order; });
    for (size_t i = 0; i < count - capacity; ++i) {
        Piece& piece = loose[i].instance->pieces[loose[i].piece];
        // What hangs together goes together.
        const std::vector<uint32_t> pieces = piece.state == PieceState::physics
                                                 ? step.state.bodies.at(piece.body).pieces
                                                 : std::vector<uint32_t>{loose[i].piece};
        for (const uint32_t p : piece.state <= PieceState::parked ? pieces : std::vector<uint32_t>()) {
            leave(step, id, *loose[i].instance, p, PieceState::clearing);
        }
    }
}

} // namespace

void settle(Step& step) {
    for (auto& [number, body] : step.state.bodies) {
        const Breakable& breakable = step.breakable(body.breakable);
        const Vec3 velocity = step.world.velocity(number), spin = step.world.spin(number);
        const bool is_slow = !step.world.is_awake(number) || (length(velocity) <= breakable.rest_speed &&
                                                              length(spin) <= 3 * breakable.rest_speed);
        body.slow_s = is_slow ? (body.slow_s < 0 ? step.now_s : body.slow_s) : -1;
        Instance& instance = step.instance_of(body);
        if (step.world.is_awake(number) && !body.is_fixed && !instance.pieces[body.pieces.front()].is_loose) {
            // What was put up is loose once it has left its place.
            constexpr float far_m = 0.05f;
            const Placement whole = step.whole_of(number);
            const Vec3 centre = instance.cut->pieces[instance.pieces[body.pieces.front()].cut_piece].centre;
            const Vec3 away = whole.position + whole.axes.out(centre) -
                              (instance.whole.position + instance.whole.axes.out(centre));
            const float turned = dot(whole.axes.y, instance.whole.axes.y);
            if (!instance.stands || length(away) > far_m || turned < 0.99f) {
                for (const uint32_t i : body.pieces) {
                    instance.pieces[i].is_loose = true;
                    instance.pieces[i].born_s = step.now_s;
                }
            }
        }
        const bool rests = !body.is_fixed && has_rested(body.slow_s, step.now_s) &&
                           instance.pieces[body.pieces.front()].is_loose;
        for (const uint32_t i : body.pieces) {
            note_rest(step, body.breakable, instance, instance.pieces[i], rests, velocity);
        }
    }
}

void note_rest(const Step& step, const std::string& id, const Instance& instance, Piece& piece, bool rests,
               const Vec3& velocity) {
    if (!rests) {
        piece.rest_s = -1;
    } else if (piece.rest_s < 0) {
        piece.rest_s = step.now_s;
        PieceEvent& rest = step.state.events[id].rests.emplace_back();
        rest.place = step.placement_of(instance, piece).position;
        rest.velocity = velocity;
        rest.number = piece.number;
    }
}

// For emitters that trail moving pieces.
void note_moving(const Step& step) {
    for (const Element& element : step.effect.elements) {
        const auto* emitter = std::get_if<Emitter>(&element.body);
        const bool asks = emitter != nullptr && emitter->when == ChildWhen::always &&
                          step.state.sources.contains(emitter->parent) && is_active(step.effect, element) &&
                          step.state.events[emitter->parent].moving.empty();
        for (const auto& [number, body] : step.state.bodies) {
            if (!asks || body.breakable != emitter->parent || body.is_fixed || !step.world.is_awake(number)) {
                continue;
            }
            const Instance& instance = step.instance_of(body);
            for (const uint32_t i : body.pieces) {
                if (instance.pieces[i].is_loose) {
                    PieceEvent& moving = step.state.events[body.breakable].moving.emplace_back();
                    moving.place = step.placement_of(instance, instance.pieces[i]).position;
                    moving.velocity = step.world.velocity(number);
                    moving.number = instance.pieces[i].number;
                }
            }
        }
        for (const Instance& instance :
             asks ? step.state.sources.at(emitter->parent).instances : std::deque<Instance>()) {
            for (const Piece& piece : instance.pieces) {
                if (piece.state == PieceState::light && piece.rest_s < 0) {
                    PieceEvent& moving = step.state.events[emitter->parent].moving.emplace_back();
                    moving.place = piece.placement.position;
                    moving.velocity = piece.velocity;
                    moving.number = piece.number;
                }
            }
        }
    }
}

void leave(Step& step, const std::string& id, Instance& instance, uint32_t index, PieceState state) {
    Source& source = step.state.sources.at(id);
    Piece& piece = instance.pieces[index];
    const bool was_moved = piece.state <= PieceState::light;
    const Vec3 velocity =
        piece.state == PieceState::physics ? step.world.velocity(piece.body) : piece.velocity;
    if (piece.state == PieceState::physics) {
        take_out(step, instance, index, state);
    }
    if (was_moved) {
        constexpr size_t most_remembered = 400;
        if (piece.is_loose) {
            source.lingered.push_back(float(step.now_s - piece.born_s));
        }
        if (source.lingered.size() > most_remembered) {
            source.lingered.erase(source.lingered.begin());
        }
    }
    piece.state = state;
    if (state == PieceState::clearing) {
        piece.clear_s = step.now_s;
        const Breakable& breakable = step.breakable(id);
        piece.clear_for_s =
            breakable.clear_by == ClearBy::crumbling
                ? 0
                : drawn(breakable.clear_time, seed_of(step.effect, id), piece.number, for_clearing);
        PieceEvent& cleared = step.state.events[id].cleared.emplace_back();
        cleared.place = piece.placement.position;
        cleared.velocity = was_moved ? velocity : Vec3();
        cleared.number = piece.number;
    }
}

void Tally::take(size_t pieces, double now_s) {
    const auto now = int64_t(now_s);
    // What lies further back is forgotten.
    for (second = std::max(second, now - int64_t(lately.size())); second < now;) {
        lately[size_t(++second) % lately.size()] = 0;
    }
    taken += pieces;
    lately[size_t(now) % lately.size()] += pieces;
}

size_t Tally::taken_lately(double now_s) const {
    const auto now = int64_t(now_s);
    size_t sum = 0;
    for (int64_t then = std::max(now - int64_t(lately.size()) + 1, int64_t(0)); then <= second; ++then) {
        sum += lately[size_t(then) % lately.size()];
    }
    return sum;
}

void clean(Step& step) {
    obey(step);
    for (auto& [id, tally] : step.state.tallies) {
        tally.ms = 0;
    }
    if (step.scene.cleans) {
        lighten(step);
    }
    for (auto& [id, source] : step.state.sources) {
        std::vector<Zone> zones;
        if (step.scene.cleans) {
            step.each<CleanupZone>(id, [&](size_t i, const CleanupZone& zone, float) {
                zones.push_back(
                    {reach_row(step.scene.prepared, step.to, i), &zone, &step.effect.elements[i].id});
            });
        }
        // Those that call back have the first word.
        std::stable_partition(zones.begin(), zones.end(),
                              [](const Zone& zone) { return zone.zone->fate == ZoneFate::call_back; });
        std::vector<int> numbers;
        for (const auto& [number, body] : step.state.bodies) {
            if (body.breakable == id && !body.is_fixed) {
                numbers.push_back(number);
            }
        }
        for (const int number : numbers) {
            const Body body = step.state.bodies.at(number);
            const Subject subject = {step.instance_of(body).pieces[body.pieces.front()],
                                     step.world.placement(number).position,
                                     length(step.world.velocity(number)), body.pieces.size(), number};
            const PieceState fate = fate_of(step, id, subject, zones);
            for (const uint32_t i : fate != PieceState::physics ? body.pieces : std::vector<uint32_t>()) {
                leave(step, id, step.instance_of(body), i, fate);
            }
        }
        for (Instance& instance : source.instances) {
            clean_out_of_physics(step, id, instance, zones);
        }
        hold_capacity(step, id, source);
        std::erase_if(source.instances, [](const Instance& instance) {
            return std::all_of(instance.pieces.begin(), instance.pieces.end(),
                               [](const Piece& piece) { return piece.state == PieceState::gone; });
        });
    }
}

} // namespace ember::debris
