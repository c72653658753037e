// Small effects that tests build on.
#pragma once

#include "core/effect/effect.h"
#include "core/runtime/simulation.h"

#include <memory>
#include <vector>

namespace ember::sample {

/// An emitter that bears one particle in its first step, at rest at `position`, and then none for a long
/// time.
inline Emitter single_particle(Vec3 position) {
    Emitter emitter;
    emitter.shape = BirthShape::point;
    emitter.position = position;
    emitter.rate = 60;
    emitter.capacity = 1;
    emitter.direction = {1, 0, 0};
    emitter.spread = 0;
    emitter.speed = {0, 0};
    emitter.lifetime = {3000, 3000};
    emitter.particle_size = {0.001f, 0.001f};
    emitter.look = "soft-dots";
    return emitter;
}

/// Particles that stay where they are born.
inline Emitter still(float rate, float lifetime_s) {
    Emitter emitter;
    emitter.shape = BirthShape::point;
    emitter.rate = rate;
    emitter.capacity = 100000;
    emitter.speed = {0, 0};
    emitter.lifetime = {lifetime_s, lifetime_s};
    emitter.particle_size = {0.01f, 0.01f};
    emitter.look = "soft-dots";
    return emitter;
}

/// An emitter and influences that are linked to it with full weight; their ids are "e", "i1", "i2", ...
inline Effect effect_of(const Emitter& emitter, const std::vector<ElementBody>& influences = {}) {
    Effect effect = starter_effect();
    effect.elements.clear();
    effect.elements.push_back({.id = "e", .name = "Emitter", .body = emitter});
    for (const ElementBody& body : influences) {
        const std::string id = "i" + std::to_string(effect.elements.size());
        effect.elements.push_back({.id = id, .name = id, .body = body, .links = {{"e", 1}}});
    }
    return effect;
}

inline EffectPtr shared(Effect effect) {
    return std::make_shared<const Effect>(std::move(effect));
}

struct ParticleState {
    Vec3 position, velocity;
    float age, lifetime, size;
    uint32_t number;
};

/// The live particles of a source, in order of birth.
inline std::vector<ParticleState> particles(const Simulation& simulation, const std::string& id = "e") {
    std::vector<ParticleState> result;
    if (const ParticlePool* pool = simulation.find_pool(id)) {
        for (const auto& b : pool->blocks()) {
            for (int i = 0; i < b->count; ++i) {
                result.push_back({{b->x[i], b->y[i], b->z[i]},
                                  {b->vx[i], b->vy[i], b->vz[i]},
                                  b->age[i],
                                  b->lifetime[i],
                                  b->size[i],
                                  b->number[i]});
            }
        }
    }
    return result;
}

/// Runs an effect for a time.
inline Simulation run(Effect effect, double seconds, Isa isa = best_isa(), double step_s = 1.0 / 60) {
    Simulation simulation(isa, step_s);
    simulation.set_effect(shared(std::move(effect)));
    while (simulation.is_warming_up()) {
        simulation.step();
    }
    const auto steps = int(seconds / step_s + 0.5);
    for (int i = 0; i < steps; ++i) {
        simulation.step();
    }
    return simulation;
}

} // namespace ember::sample
