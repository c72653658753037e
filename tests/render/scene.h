// A black stage with particles placed by hand, and what is to be seen of them.
#pragma once

#include "render/renderer.h"

#include "../core/sample_effects.h"

namespace ember::scene {

constexpr int width = 200;
constexpr int height = 160;

// A black stage with one look; particles are placed by hand. The camera looks at the origin from +z.
struct Scene {
    Effect effect;
    Frame frame;
    Camera camera = {{0, 0, 0}, 5, 0, 0, 40};
    Renderer renderer;

    explicit Scene(Look look, const std::vector<ElementBody>& influences = {}) {
        look.id = "soft-dots";
        effect = sample::effect_of(sample::single_particle({}), influences);
        effect.looks = {look};
        effect.stage.sky_top = effect.stage.sky_horizon = {0, 0, 0, 1};
        effect.stage.sun_strength = 0;
        effect.stage.bloom = 0;
        Simulation simulation;
        simulation.set_effect(sample::shared(effect));
        simulation.write_frame(frame); // the colliders, where they stand
        frame.sources.resize(1);
        frame.sources[0].largest_size = 1;
    }

    void add(Vec3 place, float size, float age_share = 0) { frame.sources[0].add({place}, age_share, size); }

    LightPlanes light() {
        Picture drawn;
        renderer.draw(frame, effect, camera, width, height, drawn);
        return renderer.light();
    }

    Picture picture() {
        Picture result;
        renderer.draw(frame, effect, camera, width, height, result);
        return result;
    }
};

inline float at(const LightPlanes& light, int x, int y, FloatPlane LightPlanes::*plane = &LightPlanes::red) {
    return (light.*plane)[size_t(y) * size_t(light.stride) + size_t(x)];
}

inline double sum(const LightPlanes& light) {
    double total = 0;
    for (int y = 0; y < light.height; ++y) {
        for (int x = 0; x < light.width; ++x) {
            total += double(at(light, x, y));
        }
    }
    return total;
}

inline Look white(Blend blend = Blend::add) {
    Look look;
    look.blend = blend;
    look.surface_fade = 0;
    return look;
}

} // namespace ember::scene
