#include "core/smoke/collector.h"

#include "core/base/hash.h"

#include <algorithm>

namespace ember {

namespace {

// A still hand does not hold the gas up.
bool is_felt(const SmokePush& push) {
    constexpr float least = 1e-3f; // m/s
    return dot(push.velocity, push.velocity) > least * least;
}

std::vector<FeedingParticle> feeding(const ParticleBlocks& blocks, const SmokeSource& source) {
    const LifeTable<float> density = sampled(source.density_over_life), heat = sampled(source.heat_over_life);
    std::vector<FeedingParticle> particles;
    for (const auto& block : blocks) {
        for (int i = 0; i < block->count; ++i) {
            const float age = std::min(block->age[i] / block->lifetime[i], 1.0f);
            particles.push_back({{block->x[i], block->y[i], block->z[i]},
                                 Vec3{block->vx[i], block->vy[i], block->vz[i]} * source.motion,
                                 density.at(age),
                                 heat.at(age)});
        }
    }
    return particles;
}

} // namespace

// What goes so fast has jumped: a pointer that comes back elsewhere, a mover at the end of its way.
Vec3 SmokeCollector::motion(size_t element) const {
    constexpr float fastest = 30; // m/s
    const Vec3 velocity = (to[element].position - from[element].position) / float(step_s);
    return dot(velocity, velocity) < fastest * fastest ? velocity : Vec3();
}

SmokeFeed SmokeCollector::feed(size_t element, const SmokeSource& source) const {
    SmokeFeed feed;
    feed.place = to[element];
    feed.shape = source.shape;
    feed.half_size = source.size * 0.5f;
    feed.way = source.way;
    feed.density = source.density;
    feed.heat = source.heat;
    feed.velocity = to[element].axes.out(source.velocity);
    if (source.shape != FeedShape::particles) {
        feed.velocity = feed.velocity + motion(element) * source.motion;
    }
    feed.moves = source.velocity != Vec3() || source.motion != 0;
    feed.ragged = source.ragged;
    feed.soft = source.soft;
    feed.seed = mixed_seed(prepared.effect->seed, hash_of(prepared.effect->elements[element].id));
    return feed;
}

SmokePush SmokeCollector::push(size_t element, const Push& push) const {
    return {to[element].position, to[element].axes.out(push.velocity) + motion(element) * push.motion,
            push.radius, push.fade_distance, push.grip};
}

void SmokeCollector::add(const std::vector<PieceBox>& pieces, const PiecePlaces& were, const SmokeSize& size,
                         std::vector<ColliderRow>& obstacles) const {
    const Vec3 high = size.low + Vec3{float(size.x), float(size.y), float(size.z)} * size.cell;
    for (const PieceBox& piece : pieces) {
        const Vec3& at = piece.placement.position;
        const float radius = length(piece.half_size);
        const bool is_near = at.x + radius > size.low.x && at.y + radius > size.low.y &&
                             at.z + radius > size.low.z && at.x - radius < high.x && at.y - radius < high.y &&
                             at.z - radius < high.z;
        if (is_near) {
            const auto was = were.find({prepared.effect->elements[piece.element].id, piece.number});
            ColliderRow& row = obstacles.emplace_back();
            row.kind = COLLIDER_BOX;
            row.half_size = piece.half_size;
            set_motion(row, was != were.end() ? was->second : piece.placement, piece.placement, step_s);
        }
    }
}

SmokeInfluences SmokeCollector::influences(const Clouds::FindBlocks& find_blocks,
                                           const std::string& smoke) const {
    SmokeInfluences found;
    const Effect& effect = *prepared.effect;
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const Element& element = effect.elements[i];
        if (!is_active(effect, element)) {
            continue;
        }
        const auto* carrier = std::get_if<GridFlow>(&element.body);
        found.carries = found.carries || (carrier != nullptr && carrier->grid == FlowGrid::smoke);
        ColliderRow row{};
        if (const auto* source = std::get_if<SmokeSource>(&element.body)) {
            SmokeFeed& fed = found.feeds.emplace_back(feed(i, *source));
            const ParticleBlocks* blocks =
                source->shape == FeedShape::particles ? find_blocks(source->source) : nullptr;
            if (blocks != nullptr) {
                fed.particles = feeding(*blocks, *source);
            }
        } else if (const auto* given = std::get_if<Push>(&element.body)) {
            const SmokePush felt = push(i, *given);
            if (is_felt(felt)) {
                found.pushes.push_back(felt);
            }
        } else if (const Link* link = find_link(element, smoke);
                   link != nullptr && link->weight > 0 && surface_of(element.body) != nullptr &&
                   collider_row(prepared, i, windows, from[i], to[i], step_s, row)) {
            row.share = link->weight;
            (row.share < 1 ? found.porous : found.obstacles).push_back(row);
        }
    }
    return found;
}

std::vector<Influence<ForceRow>> forces_on_smoke(const PreparedEffect& prepared, const WindowGrids& windows,
                                                 const StepTime& time, const StepPlacements& placed,
                                                 size_t smoke) {
    std::vector<Influence<ForceRow>> forces = compiled_for(prepared, windows, time, placed, smoke).forces;
    std::erase_if(forces, [&](const Influence<ForceRow>& force) {
        const auto* flow = std::get_if<GridFlow>(&prepared.effect->elements[force.element].body);
        return flow != nullptr && flow->grid == FlowGrid::smoke;
    });
    return forces;
}

} // namespace ember
