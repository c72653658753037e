// Breakables: what is counted of them.
#include "core/debris/debris_step.h"

#include <algorithm>
#include <cmath>

namespace ember::debris {

CutFacts facts_of(const Cut& cut) {
    CutFacts facts = {cut.pieces.size(), cut.triangles, cut.slivers, HUGE_VALF, 0, {}};
    for (const ember::Piece& piece : cut.pieces) {
        facts.smallest_m3 = std::min(facts.smallest_m3, piece.volume);
        facts.largest_m3 = std::max(facts.largest_m3, piece.volume);
    }
    const float span = std::log(facts.largest_m3 / facts.smallest_m3);
    for (const ember::Piece& piece : cut.pieces) {
        const float share = span > 0 ? std::log(piece.volume / facts.smallest_m3) / span : 0;
        ++facts.sizes[std::min(size_t(share * float(facts.sizes.size())), facts.sizes.size() - 1)];
    }
    return facts;
}

void measure(Step& step, Meters& meters) {
    for (auto& [id, source] : step.state.sources) {
        ElementMeter& element = meters.elements[step.index_of(id)];
        DebrisMeter& meter = element.debris;
        meter.cut = source.facts;
        source.live = 0;
        for (const Instance& instance : source.instances) {
            meter.faces += instance.broken.size();
            meter.faces_broken += instance.broken.size() -
                                  size_t(std::count(instance.broken.begin(), instance.broken.end(), char(0)));
            for (const Piece& piece : instance.pieces) {
                meter.pieces += piece.state != PieceState::gone ? 1 : 0;
                meter.light += piece.state == PieceState::light ? 1 : 0;
                meter.parked += piece.state == PieceState::parked ? 1 : 0;
                source.live += piece.state <= PieceState::parked ? 1 : 0;
            }
        }
        for (const auto& [number, body] : step.state.bodies) {
            if (body.breakable == id) {
                ++meter.bodies;
                (step.world.is_awake(number) ? meter.awake : meter.resting) += body.pieces.size();
            }
        }
        if (!source.lingered.empty()) {
            std::vector<float> sorted = source.lingered;
            std::sort(sorted.begin(), sorted.end());
            meter.linger_median_s = sorted[sorted.size() / 2];
            meter.linger_longest_s = sorted.back();
        }
        element.live = meter.pieces;
        element.born = source.next_piece;
        element.refused = source.refused;
        meters.debris.pieces += meter.pieces;
        meters.debris.awake += meter.awake;
        meters.debris.resting += meter.resting;
        meters.debris.light += meter.light;
        meters.debris.parked += meter.parked;
        meters.debris.bodies += meter.bodies;
        meters.debris.linger_median_s = std::max(meters.debris.linger_median_s, meter.linger_median_s);
        meters.debris.linger_longest_s = std::max(meters.debris.linger_longest_s, meter.linger_longest_s);
    }
}

} // namespace ember::debris
