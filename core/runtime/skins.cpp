#include "core/runtime/skins.h"

#include "core/geometry/blended_surface.h"
#include "core/scene/placements.h"

#include <algorithm>

namespace ember {

namespace {

Mesh skin_of(const ParticlePool& pool, const Look& look) {
    const LifeTable<float> sizes = sampled(look.size_over_life);
    std::vector<BlendedBall> balls;
    for (const auto& block : pool.blocks()) {
        for (int i = 0; i < block->count; ++i) {
            const float share = std::clamp(block->age[i] / block->lifetime[i], 0.0f, 1.0f);
            const float radius = 0.5f * block->size[i] * sizes.at(share) * look.surface_radius;
            if (radius > 0) {
                balls.push_back({{block->x[i], block->y[i], block->z[i]}, radius});
            }
        }
    }
    return skin_round(balls, look);
}

} // namespace

Mesh skin_round(std::span<const BlendedBall> balls, const Look& look) {
    float sum = 0;
    for (const BlendedBall& ball : balls) {
        sum += ball.radius;
    }
    const float mean = balls.empty() ? 0 : sum / float(balls.size());
    return blended_surface(balls, look.surface_cell, mean * look.surface_blending);
}

void find_skins(PreparedEffect& prepared, const FindPool& pool_of, const std::vector<Placement>& placements) {
    const Effect& effect = *prepared.effect;
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const auto* emitter = std::get_if<Emitter>(&effect.elements[i].body);
        if (emitter == nullptr || emitter->shape != BirthShape::skin) {
            continue;
        }
        auto ready = std::make_shared<PreparedElement>(*prepared.elements[i]);
        ready->mesh.reset();
        const Element* source = find_element(effect, emitter->skin_of);
        const ParticlePool* pool = source != nullptr ? pool_of(source->id) : nullptr;
        const Look* look =
            pool != nullptr ? find_look(effect, std::get<Emitter>(source->body).look) : nullptr;
        if (look != nullptr) {
            Mesh mesh = skin_of(*pool, *look);
            // Births are told in the emitter's own axes.
            const Placement& own = placements[i];
            for (Vec3& corner : mesh.corners) {
                corner = own.axes.in(corner - own.position);
            }
            for (Vec3& normal : mesh.normals) {
                normal = own.axes.in(normal);
            }
            ready->mesh = std::make_shared<const BirthMesh>(birth_mesh(mesh, MeshBirth::faces));
        }
        prepared.elements[i] = std::move(ready);
    }
}

} // namespace ember
