#include "core/bake/particle_tracks.h"

#include "core/bake/glb.h"

#include <algorithm>

namespace ember {

namespace {

Mesh eight_sided() {
    Mesh mesh;
    mesh.corners = {{0.5f, 0, 0}, {-0.5f, 0, 0}, {0, 0.5f, 0}, {0, -0.5f, 0}, {0, 0, 0.5f}, {0, 0, -0.5f}};
    for (const uint32_t x : {0u, 1u}) {
        for (const uint32_t y : {2u, 3u}) {
            for (const uint32_t z : {4u, 5u}) {
                const bool is_turned = (x + y + z) % 2 != 0;
                mesh.triangles.push_back(is_turned ? std::array{x, z, y} : std::array{x, y, z});
            }
        }
    }
    mesh.find_normals();
    return mesh;
}

Mesh mesh_of(const Look& look, const Assets& assets) {
    for (const AssetNeed& need : needs_of(look)) {
        if (const auto mesh = assets.find<Mesh>(need.key())) {
            return *mesh;
        }
    }
    return eight_sided();
}

} // namespace

std::optional<Problem> ParticleTracks::add(const Simulation& simulation,
                                           const std::vector<std::string>& sources, int frame) {
    const Effect& effect = *simulation.effect_now();
    for (const Element& element : effect.elements) {
        const auto* emitter = std::get_if<Emitter>(&element.body);
        const ParticlePool* pool = emitter != nullptr ? simulation.find_pool(element.id) : nullptr;
        const bool is_wanted =
            sources.empty() || std::find(sources.begin(), sources.end(), element.id) != sources.end();
        if (pool == nullptr || !is_wanted) {
            continue;
        }
        const Look* look = find_look(effect, emitter->look);
        const LifeTable<float> sizes =
            sampled(look != nullptr ? look->size_over_life : Look().size_over_life);
        for (const auto& block : pool->blocks()) {
            for (int i = 0; i < block->count; ++i) {
                const float share = std::clamp(block->age[i] / block->lifetime[i], 0.0f, 1.0f);
                tracks_[{element.id, block->number[i]}].push_back(
                    {frame, {block->x[i], block->y[i], block->z[i]}, {}, block->size[i] * sizes.at(share)});
            }
        }
    }
    if (tracks_.size() > most_particle_tracks) {
        return Problem{"", 0, "particles as one GLB",
                       std::to_string(tracks_.size()) + " of them by frame " + std::to_string(frame),
                       "at most " + std::to_string(most_particle_tracks) +
                           ": a shorter span, fewer sources, or PLY"};
    }
    return std::nullopt;
}

std::optional<Problem> ParticleTracks::write_glb(const Effect& effect, const Assets& assets,
                                                 const std::filesystem::path& path, int frames) const {
    GlbFile glb("particles");
    struct Known {
        int node, mesh;
    };
    std::map<std::string, Known> sources;
    for (const auto& [id, keys] : tracks_) {
        const auto& [source, number] = id;
        if (!sources.contains(source)) {
            const Element* element = find_element(effect, source);
            const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
            const Look* found = emitter != nullptr ? find_look(effect, emitter->look) : nullptr;
            const Look look = found != nullptr ? *found : Look();
            const Mesh mesh = mesh_of(look, assets);
            const Colour colour = sampled(look.colour_over_life).at(0.5f);
            const float glow = std::min(look.glow * sampled(look.glow_over_life).at(0.5f), 1.0f);
            const int material = glb.add_material(
                {source, colour, 1, {colour.red * glow, colour.green * glow, colour.blue * glow, 1}});
            sources[source] = {glb.add_node({.name = source}),
                               glb.add_mesh(source, mesh, {}, {{mesh.triangles, material}})};
        }
        glb.add_moving({.name = source + " " + std::to_string(number),
                        .parent = sources[source].node,
                        .mesh = sources[source].mesh},
                       keys, frames, frames_per_s_, false);
    }
    return glb.write(path);
}

} // namespace ember
