#include "core/bake/ply.h"

#include "core/base/file.h"

#include <algorithm>
#include <bit>
#include <cstring>

namespace ember {

namespace {

static_assert(std::endian::native == std::endian::little, "records are written as they lie in memory");

struct Record {
    float x, y, z, vx, vy, vz, age, lifetime, size, red, green, blue, alpha;
    float born_size, tint_red, tint_green, tint_blue, tint_alpha;
    uint32_t id, source;
};

void write_pool(std::ostream& stream, const ParticlePool& pool, const Look& look, uint32_t source) {
    const LifeTable<float> sizes = sampled(look.size_over_life);
    const LifeTable<Colour> colours = sampled(look.colour_over_life);
    const LifeTable<float> glow = sampled(look.glow_over_life);
    const LifeTable<float> opacity = sampled(look.opacity_over_life);
    for (const auto& block : pool.blocks()) {
        for (int i = 0; i < block->count; ++i) {
            const float share = std::clamp(block->age[i] / block->lifetime[i], 0.0f, 1.0f);
            const Colour tint = block->mark[i].tint();
            const Colour colour = colours.at(share) * tint;
            const float bright = look.glow * glow.at(share);
            const Record record = {block->x[i],
                                   block->y[i],
                                   block->z[i],
                                   block->vx[i],
                                   block->vy[i],
                                   block->vz[i],
                                   block->age[i],
                                   block->lifetime[i],
                                   block->size[i] * sizes.at(share),
                                   colour.red * bright,
                                   colour.green * bright,
                                   colour.blue * bright,
                                   colour.alpha * look.opacity * opacity.at(share),
                                   block->size[i],
                                   tint.red,
                                   tint.green,
                                   tint.blue,
                                   tint.alpha,
                                   block->number[i],
                                   source};
            char bytes[sizeof record];
            std::memcpy(bytes, &record, sizeof record);
            stream.write(bytes, sizeof bytes);
        }
    }
}

} // namespace

std::optional<Problem> write_ply(const Simulation& simulation, const std::filesystem::path& path,
                                 const std::vector<std::string>& sources) {
    const Effect& effect = *simulation.effect_now();
    const auto pool_of = [&](const Element& element) {
        const bool is_wanted =
            sources.empty() || std::find(sources.begin(), sources.end(), element.id) != sources.end();
        return is_wanted ? simulation.find_pool(element.id) : nullptr;
    };
    size_t count = 0;
    for (const Element& element : effect.elements) {
        const ParticlePool* pool = pool_of(element);
        count += pool != nullptr ? pool->live() : 0;
    }
    return write_file(path, [&](std::ostream& stream) {
        stream << "ply\nformat binary_little_endian 1.0\ncomment Crisp Ember, metres and seconds, time "
               << simulation.time_s() << "\nelement vertex " << count << "\n";
        for (const char* name :
             {"x", "y", "z", "vx", "vy", "vz", "age", "lifetime", "size", "red", "green", "blue", "alpha",
              "born_size", "tint_red", "tint_green", "tint_blue", "tint_alpha"}) {
            stream << "property float " << name << "\n";
        }
        stream << "property uint id\nproperty uint source\nend_header\n";

        uint32_t source = 0;
        for (const Element& element : effect.elements) {
            if (const auto* emitter = std::get_if<Emitter>(&element.body)) {
                if (const ParticlePool* pool = pool_of(element)) {
                    const Look* look = find_look(effect, emitter->look);
                    write_pool(stream, *pool, look != nullptr ? *look : Look(), source);
                }
                ++source;
            }
        }
    });
}

} // namespace ember
