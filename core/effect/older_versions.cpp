#include "core/effect/older_versions.h"

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// From moments that count from the beginning of the warm-up to such that count from its end.
struct FromWarmUp {
    float warm_up; // s

    void operator()(Emitter& emitter) const {
        if (emitter.start > 0) {
            emitter.begins = Begin::at_time;
            emitter.start -= warm_up;
        }
        if (emitter.order == BirthOrder::travelling) {
            emitter.birth_place = turned_on(emitter.birth_place, double(emitter.travel));
        }
    }
    void operator()(Cycle& cycle) const { cycle.phase = turned_on(cycle.phase, 1 / double(cycle.period)); }
    void operator()(Growth& growth) const { growth.start -= warm_up; }
    void operator()(TimeCurve& curve) const { curve.start -= warm_up; }
    void operator()(PathMover& mover) const {
        const double way = double(mover.phase) + double(warm_up) / double(mover.period);
        mover.phase = mover.at_end == PathEnd::loop ? turned_on(mover.phase, 1 / double(mover.period))
                      : mover.at_end == PathEnd::return_back ? float(std::fmod(way, 2))
                                                             : float(std::min(way, 1.0));
    }
    void operator()(Orbit& mover) const {
        if (std::fabs(mover.period) > 1e-3f) {
            mover.phase = turned_on(mover.phase, 1 / double(mover.period));
        }
    }
    void operator()(Swing& mover) const { mover.phase = turned_on(mover.phase, 1 / double(mover.period)); }
    void operator()(KeyedMover& mover) const { mover.start -= warm_up; }
    void operator()(Blast& blast) const { blast.first -= warm_up; }
    void operator()(Dropper& dropper) const { dropper.first -= warm_up; }
    void operator()(Trigger& trigger) const { trigger.at = trigger.time - warm_up; }
    void operator()(auto&) const {}

  private:
    // Where something is at the end of the warm-up that was at a share of its round when that began.
    float turned_on(float share, double rounds_per_s) const {
        const double at = double(share) + double(warm_up) * rounds_per_s;
        return float(at - std::floor(at));
    }
};

} // namespace

void bring_up_to_date(Effect& effect, int version) {
    for (Element& element : effect.elements) {
        if (version < 2) {
            std::visit(FromWarmUp{effect.stage.warm_up}, element.body);
        }
        if (version < 3 && surface_of(element.body) != nullptr) {
            for (const Element& other : effect.elements) {
                if (std::holds_alternative<Smoke>(other.body)) {
                    element.links.push_back({other.id, 1});
                }
            }
        }
    }
}

} // namespace ember
