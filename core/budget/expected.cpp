#include "core/budget/expected.h"

#include "core/effect/drive.h"
#include "core/effect/parameter.h"
#include "core/effect/track.h"
#include "core/particles/births.h"
#include "core/runtime/simulation.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <set>

namespace ember {

namespace {

constexpr double for_ever_s = 1e30;

// The effect with what modulators drive at the middle of its range.
Effect half_driven(const Effect& effect) {
    std::vector<ModulatorValue> middle;
    for (const Element& element : effect.elements) {
        if (family_of(element.body) == Family::modulator && !element.muted) {
            middle.push_back({element.id, 0.5f});
        }
    }
    return effect.drives.empty() ? effect : driven(effect, middle);
}

bool kills(const Element& influence) {
    const Surface* surface = surface_of(influence.body);
    const auto* pieces = std::get_if<PieceCollider>(&influence.body);
    return (surface != nullptr && surface->on_hit == OnHit::die) ||
           (pieces != nullptr && pieces->on_hit == OnHit::die);
}

bool is_killed(const Effect& effect, const Element& source) {
    return std::any_of(effect.elements.begin(), effect.elements.end(), [&](const Element& influence) {
        const Link* link = find_link(influence, source.id);
        return link != nullptr && link->weight > 0 && kills(influence) && is_active(effect, influence);
    });
}

// One source by itself with what acts on it: a few births at once, and then none.
Effect trial_of(const Effect& effect, const Element& source) {
    constexpr int births = 48;
    Effect trial = effect;
    trial.stage.warm_up = 0;
    trial.drives.clear();
    trial.tracks.clear();
    std::erase_if(trial.elements, [&](const Element& element) {
        const Family family = family_of(element.body);
        return element.id != source.id && (family == Family::source || family == Family::trigger ||
                                           family == Family::smoke || family == Family::light);
    });
    for (Element& element : trial.elements) {
        if (auto* emitter = std::get_if<Emitter>(&element.body)) {
            emitter->parent.clear();
            emitter->rate = emitter->per_metre = 0;
            emitter->begins = Begin::at_once;
            emitter->burst_start = emitter->duration = emitter->loop_every = 0;
            emitter->burst_count = emitter->capacity = births;
            emitter->burst_repeats = 1;
        }
    }
    return trial;
}

// How long they live, on average; what outlives the trial, as long as it would.
double lived_s(const Effect& trial, const std::string& source_id, double lifetime_s) {
    constexpr double longest_s = 10, step_s = 1.0 / 30;
    Simulation simulation(best_isa(), step_s);
    simulation.set_effect(std::make_shared<const Effect>(trial));
    const double end_s = std::min(longest_s, lifetime_s * 1.5);
    double sum_s = 0;
    size_t births = 0, left = 0;
    while (simulation.time_s() < end_s) {
        simulation.step();
        const ParticlePool* pool = simulation.find_pool(source_id);
        left = pool != nullptr ? pool->live() : 0;
        births = pool != nullptr ? std::max(births, size_t(pool->born())) : births;
        sum_s += double(left) * step_s;
        if (left == 0) {
            break;
        }
    }
    sum_s += double(left) * std::max(lifetime_s - end_s, 0.0);
    return births > 0 ? std::min(sum_s / double(births), lifetime_s) : lifetime_s;
}

double set_lifetime_s(const Emitter& emitter) {
    return emitter.for_ever ? for_ever_s : (double(emitter.lifetime.low) + double(emitter.lifetime.high)) / 2;
}

double mean_lifetime_s(const Effect& effect, const Element& source) {
    const double lifetime_s = set_lifetime_s(std::get<Emitter>(source.body));
    if (!is_killed(effect, source)) {
        return lifetime_s;
    }
    // An edit asks several times about the same sources.
    struct Known {
        Effect trial;
        double lived_s;
    };
    constexpr size_t most_known = 16;
    thread_local std::deque<Known> known;
    const Effect trial = trial_of(effect, source);
    for (const Known& one : known) {
        if (one.trial.elements == trial.elements && one.trial.seed == trial.seed) {
            return one.lived_s;
        }
    }
    known.push_front({trial, lived_s(trial, source.id, lifetime_s)});
    known.resize(std::min(known.size(), most_known), known.front());
    return known.front().lived_s;
}

// What single bursts have alive at a time at the most.
double at_once(const Emitter& emitter, double lifetime_s) {
    const bool comes_again = emitter.duration > 0 && emitter.loop_every > 0;
    if (emitter.burst_count <= 0 || emitter.burst_repeats <= 0 || comes_again || !emitter.parent.empty()) {
        return 0;
    }
    double bursts = emitter.burst_repeats;
    if (emitter.duration > 0) {
        const double room_s = double(emitter.duration - emitter.burst_start);
        bursts = room_s > 0 ? std::min(bursts, std::ceil(room_s / double(emitter.burst_every))) : 0;
    }
    return double(emitter.burst_count) *
           std::min(bursts, std::floor(lifetime_s / double(emitter.burst_every)) + 1);
}

double own_births_per_s(const Emitter& emitter) {
    double births = double(emitter.rate);
    // Single bursts pass; only those that go on for ever, or come again with each loop, are a steady rate.
    if (emitter.burst_count > 0 && emitter.burst_repeats == 0) {
        births += double(emitter.burst_count) / double(emitter.burst_every);
    }
    births *= birth_share(emitter);
    if (emitter.burst_count > 0 && emitter.burst_repeats > 0 && emitter.duration > 0 &&
        emitter.loop_every > 0) {
        births += double(emitter.burst_count) * emitter.burst_repeats /
                  double(std::max(emitter.loop_every, emitter.duration));
    }
    return births;
}

bool is_driven(const Effect& effect, const std::string& id) {
    return std::any_of(effect.drives.begin(), effect.drives.end(),
                       [&](const Drive& drive) { return drive.holder == id; });
}

// About how many pieces it is cut into.
double pieces_of(const Breakable& breakable) {
    if (breakable.pattern != CutPattern::courses || breakable.shape != BreakShape::block) {
        return double(breakable.pieces);
    }
    const auto along = [](float size, float block) {
        return std::max(std::round(double(size / block)), 1.0);
    };
    return along(breakable.size.x, breakable.block.x) * along(breakable.size.y, breakable.block.y) *
           along(breakable.size.z, breakable.block.z);
}

// How many pieces it has in the picture: what stands, and what is dropped, as long as that lingers.
ExpectedCount expected_pieces(const Effect& effect, const Element& element) {
    constexpr double comes_to_rest_s = 2.5; // about, from breaking off
    const auto& breakable = std::get<Breakable>(element.body);
    ExpectedCount count;
    if (!is_active(effect, element)) {
        return count;
    }
    count.is_about = true;
    const double pieces = pieces_of(breakable);
    const auto mean = [](const Range& range) { return (double(range.low) + double(range.high)) / 2; };
    double stays_s = for_ever_s;
    if (breakable.at_rest == RestFate::clear) {
        stays_s = comes_to_rest_s + mean(breakable.linger) + mean(breakable.clear_time);
    }
    if (breakable.longest_life > 0) {
        stays_s = std::min(stays_s, double(breakable.longest_life) + mean(breakable.clear_time));
    }
    count.live = breakable.stands ? pieces : 0;
    if (breakable.stands && breakable.returns_after > 0) {
        count.births_per_s += pieces / double(breakable.returns_after);
    }
    for (const Element& each : effect.elements) {
        const auto* dropper = std::get_if<Dropper>(&each.body);
        if (dropper == nullptr || dropper->drops != element.id || !is_active(effect, each)) {
            continue;
        }
        dropper->every > 0 ? count.births_per_s += pieces / double(dropper->every) : count.bursts += pieces;
    }
    count.live = std::min(count.live + count.births_per_s * stays_s, double(breakable.capacity));
    return count;
}

ExpectedCount expected_of(const Effect& effect, const Element& element, size_t depth) {
    ExpectedCount count;
    if (std::holds_alternative<Breakable>(element.body)) {
        return expected_pieces(effect, element);
    }
    if (!std::holds_alternative<Emitter>(element.body)) {
        return count;
    }
    const auto& emitter = std::get<Emitter>(element.body);
    const Element* parent = find_element(effect, emitter.parent);
    if (emitter.shape == BirthShape::clip) {
        return count; // only its files know
    }
    if (!is_active(effect, element) || depth > effect.elements.size() ||
        (parent == nullptr && !emitter.parent.empty())) {
        return count;
    }
    if (parent != nullptr && !std::holds_alternative<Emitter>(parent->body)) {
        return count; // nobody knows when it breaks
    }
    const double lifetime_s = mean_lifetime_s(effect, element);
    count.is_about = is_driven(effect, element.id) || is_killed(effect, element);
    if (parent == nullptr) {
        count.births_per_s = own_births_per_s(emitter);
        count.bursts = at_once(emitter, lifetime_s);
    } else {
        const ExpectedCount parents = expected_of(effect, *parent, depth + 1);
        const auto& parent_emitter = std::get<Emitter>(parent->body);
        const double parent_s = mean_lifetime_s(effect, *parent);
        const auto capacity = double(parent_emitter.capacity);
        const double alive = std::min(parents.live, capacity), burst = std::min(parents.bursts, capacity);
        const double turnover = std::min(parents.births_per_s, alive / parent_s);
        const double per_event = double(emitter.per_parent_count) * double(emitter.chance);
        count.assumes_hits = parents.assumes_hits || emitter.when == ChildWhen::hit;
        count.is_about = count.is_about || parents.is_about;
        if (emitter.when == ChildWhen::always) {
            count.births_per_s = alive * double(emitter.per_parent_rate);
            count.bursts = burst * double(emitter.per_parent_rate) * std::min(lifetime_s, parent_s);
        } else if (emitter.when == ChildWhen::death || emitter.when == ChildWhen::hit) {
            count.births_per_s = turnover * per_event;
            count.bursts = burst * per_event;
        }
    }
    count.live = count.births_per_s * lifetime_s;
    return count;
}

// The effect as its tracks have it at a moment.
Effect tracked(const Effect& effect, double time_s) {
    Effect result = effect;
    for (const Track& track : effect.tracks) {
        const auto holder = find_holder(result, track.holder);
        const Parameter* parameter = holder ? holder->find(track.parameter) : nullptr;
        if (parameter != nullptr) {
            parameter->set(const_cast<void*>(holder->object), // of `result`, which is ours
                           value_at(track, *parameter, time_s));
        }
    }
    return result;
}

// At which elements have what they are keyed to: at every key, or at even ones of many.
std::vector<double> moments_of(const Effect& effect) {
    constexpr size_t most = 9;
    std::set<float> keys;
    for (const Track& track : effect.tracks) {
        if (find_element(effect, track.holder) != nullptr) {
            for (const Curve& curve : track.curves) {
                for (const Curve::Point& key : curve.points) {
                    keys.insert(key.time);
                }
            }
        }
    }
    const std::vector<double> all(keys.begin(), keys.end());
    std::vector<double> chosen;
    for (size_t i = 0; i < std::min(all.size(), most); ++i) {
        chosen.push_back(all.size() <= most ? all[i] : all[i * (all.size() - 1) / (most - 1)]);
    }
    return chosen;
}

std::vector<ExpectedCount> counts_of(const Effect& effect) {
    std::vector<ExpectedCount> counts;
    for (const Element& element : effect.elements) {
        counts.push_back(family_of(element.body) == Family::source ? expected_of(effect, element, 0)
                                                                   : ExpectedCount());
    }
    return counts;
}

} // namespace

std::vector<ExpectedCount> expected_counts(const Effect& effect) {
    const std::vector<double> moments = moments_of(effect);
    if (moments.empty()) {
        return counts_of(half_driven(effect));
    }
    std::vector<ExpectedCount> most;
    for (const double moment : moments) {
        std::vector<ExpectedCount> then = counts_of(half_driven(tracked(effect, moment)));
        for (size_t i = 0; i < most.size(); ++i) {
            const bool is_about = most[i].is_about || then[i].is_about || then[i].most() != most[i].most();
            then[i] = then[i].most() > most[i].most() ? then[i] : most[i];
            then[i].is_about = is_about;
        }
        most = std::move(then);
    }
    return most;
}

namespace {

std::string whole(double number) {
    return std::to_string(int64_t(std::min(number, 1e15) + 0.5));
}

} // namespace

std::optional<std::string> why_never_born(const Effect& effect, const Element& element) {
    const auto* emitter = std::get_if<Emitter>(&element.body);
    const Element* parent = emitter != nullptr ? find_element(effect, emitter->parent) : nullptr;
    const bool breaks = parent != nullptr && std::holds_alternative<Breakable>(parent->body);
    const bool waits =
        emitter != nullptr && (emitter->when == ChildWhen::broken || emitter->when == ChildWhen::rest ||
                               emitter->when == ChildWhen::apart);
    if (parent == nullptr || breaks || !waits) {
        return std::nullopt;
    }
    return "nothing is born: only breakables break and come to rest, and " + parent->name + " is none";
}

std::optional<std::string> why_never_breaks(const Effect& effect, const Element& element) {
    const auto* blast = std::get_if<Blast>(&element.body);
    float weakest = HUGE_VALF;
    for (const Link& link : blast != nullptr ? element.links : std::vector<Link>()) {
        const Element* source = find_element(effect, link.source);
        const auto* breakable = source != nullptr ? std::get_if<Breakable>(&source->body) : nullptr;
        if (breakable != nullptr && link.weight > 0) {
            // Of the weakest faces.
            const float least = breakable->strength / (1 + 4 * breakable->strength_spread);
            weakest = std::min(weakest, least / link.weight);
        }
    }
    if (blast == nullptr || weakest == HUGE_VALF || blast->damage >= weakest) {
        return std::nullopt;
    }
    return "nothing breaks: a damage of " + text_of(blast->damage) + " kPa is below the " + text_of(weakest) +
           " kPa that the weakest faces in its reach hold";
}

std::optional<std::string> shared_room(const Effect& effect, const Element& element) {
    const auto* smoke = std::get_if<Smoke>(&element.body);
    if (smoke == nullptr) {
        return std::nullopt;
    }
    for (const Element& each : effect.elements) {
        const auto* other = std::get_if<Smoke>(&each.body);
        if (other == nullptr || each.id == element.id || other->rides_on != smoke->rides_on ||
            !is_active(effect, each)) {
            continue;
        }
        const Vec3 apart = smoke->position - other->position, reach = (smoke->size + other->size) * 0.5f;
        if (std::abs(apart.x) < reach.x && std::abs(apart.y) < reach.y && std::abs(apart.z) < reach.z) {
            return "it shares room with " + each.name +
                   ": each moves for itself, and no smoke passes from one to the other";
        }
    }
    return std::nullopt;
}

std::optional<std::string> expected_excess(const Effect& effect, size_t element,
                                           const ExpectedCount& expected) {
    const auto* emitter = std::get_if<Emitter>(&effect.elements[element].body);
    if (emitter == nullptr || emitter->for_ever || expected.most() <= double(emitter->capacity)) {
        return std::nullopt;
    }
    return "about " + whole(expected.most()) + " particles alive, with " + whole(expected.births_per_s) +
           " births a second" + (expected.bursts > 0 ? " and bursts" : "") +
           (expected.assumes_hits ? ", if each parent hits something once" : "") + "; its capacity of " +
           std::to_string(emitter->capacity) + " will hold it back";
}

std::optional<std::string> expected_over_budget(const Effect& effect) {
    const std::vector<ExpectedCount> counts = expected_counts(effect);
    double sum = 0;
    for (size_t i = 0; i < counts.size(); ++i) {
        if (const auto* emitter = std::get_if<Emitter>(&effect.elements[i].body)) {
            const double capacity = is_active(effect, effect.elements[i]) ? double(emitter->capacity) : 0;
            sum += std::min(counts[i].most(), capacity);
        }
    }
    if (sum <= double(effect.budget.particles)) {
        return std::nullopt;
    }
    return "about " + whole(sum) + " particles alive in all; the budget allows " +
           std::to_string(effect.budget.particles);
}

} // namespace ember
