// What a picture needs of a simulation.
#include "core/runtime/clips.h"
#include "core/runtime/simulation.h"

#include "core/scene/birth_rows.h"
#include "core/scene/placements.h"

#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>
#include <numbers>

namespace ember {

namespace {

uint16_t share_of_65535(float share) {
    return uint16_t(std::clamp(share, 0.0f, 1.0f) * 65535.0f + 0.5f);
}

void write_forms(const BlockKernels& kernels, const FormRow& form, const ParticleBlock& block,
                 const Rests& rests, FrameForm* out) {
    BlockForms forms;
    kernels.form(form, block, forms);
    rests.overlay(block, forms);
    for (int i = 0; i < block.count; ++i) {
        out[i] = FrameForm::of({{forms.turn_x[i], forms.turn_y[i], forms.turn_z[i]}, forms.turn_w[i]},
                               {forms.stretch_x[i], forms.stretch_y[i], forms.stretch_z[i]});
    }
}

// Whether a look draws particles otherwise by how they move, or by who they are.
bool shows_motion(const Look& look) {
    return look.drawn_as == Drawing::streaks ||
           (look.drawn_as == Drawing::cards && look.card_faces == CardFaces::motion);
}
bool shows_numbers(const Look& look) {
    return look.copies > 0 || look.drawn_as == Drawing::cards || look.drawn_as == Drawing::meshes;
}

FrameLight light_at(const Light& light, const Placement& placement, size_t element) {
    constexpr float radians = std::numbers::pi_v<float> / 180;
    FrameLight out;
    out.position = placement.position;
    out.direction = placement.axes.y * -1.0f;
    out.light = Vec3{light.colour.red, light.colour.green, light.colour.blue} * light.strength;
    out.reach = light.reach;
    out.shadows = light.shadows;
    out.element = element;
    if (light.kind == LightKind::spot) {
        const float half = light.cone * 0.5f * radians;
        out.cos_outer = std::cos(half);
        out.cos_inner = std::cos(half * (1 - light.cone_softness)) + 1e-4f;
    }
    return out;
}

// What a frame holds of a source's particles besides place, age and size. `form`: null for round ones.
struct Written {
    bool tints;
    bool motions;
    bool numbers;
    const FormRow* form;
};

void write_source(const ParticlePool& pool, const Written& written, const BlockKernels& kernels,
                  FrameSource& source) {
    // A little more than needed, and not the double that a growing vector would take.
    const auto resize = [](auto& values, size_t size) {
        if (values.capacity() < size) {
            values.reserve(size + size / 16);
        }
        values.resize(size);
    };
    const ParticlePool::Blocks& blocks = pool.blocks();
    resize(source.particles, pool.live());
    resize(source.blocks, blocks.size());
    resize(source.marks, written.tints ? pool.live() : 0);
    resize(source.forms, written.form != nullptr ? pool.live() : 0);
    resize(source.motions, written.motions ? pool.live() : 0);
    resize(source.numbers, written.numbers ? pool.live() : 0);
    source.largest_size = 0;
    source.fastest = 0;
    std::vector<size_t> starts(blocks.size());
    for (size_t b = 0, start = 0; b < blocks.size(); ++b) {
        starts[b] = start;
        start += size_t(blocks[b]->count);
        source.largest_size = std::max(
            source.largest_size, *std::max_element(blocks[b]->size, blocks[b]->size + blocks[b]->count));
        for (const float* v : {blocks[b]->vx, blocks[b]->vy, blocks[b]->vz}) {
            for (int i = 0; written.motions && i < blocks[b]->count; ++i) {
                source.fastest = std::max(source.fastest, std::fabs(v[i]));
            }
        }
    }
    const float size_scale = 1 / std::max(source.largest_size, 1e-9f);
    tbb::parallel_for(size_t(0), blocks.size(), [&](size_t b) {
        const ParticleBlock& block = *blocks[b];
        source.blocks[b] = FrameBlock::around(block.x, block.y, block.z, starts[b], block.count);
        FrameParticle* out = source.particles.data() + starts[b];
        for (int i = 0; i < block.count; ++i) {
            source.blocks[b].set_place({block.x[i], block.y[i], block.z[i]}, out[i]);
            out[i].age_share = share_of_65535(block.age[i] / block.lifetime[i]);
            out[i].size_share = share_of_65535(block.size[i] * size_scale);
        }
        for (int i = 0; written.motions && i < block.count; ++i) {
            source.motions[starts[b] + size_t(i)] =
                FrameMotion::of({block.vx[i], block.vy[i], block.vz[i]}, source.fastest);
        }
        if (written.numbers) {
            std::copy_n(block.number, block.count, source.numbers.data() + starts[b]);
        }
        if (written.tints) {
            std::copy_n(block.mark, block.count, source.marks.data() + starts[b]);
        }
        if (written.form != nullptr) {
            write_forms(kernels, *written.form, block, pool.rests(), source.forms.data() + starts[b]);
        }
    });
}

} // namespace

void Simulation::write_frame(Frame& frame) const {
    const Effect& effect = *prepared_.effect;
    frame.effect = effect_;
    frame.now = prepared_.effect;
    frame.modulators = modulators_;
    frame.time_s = time_s();
    frame.step = steps_;
    frame.gives = gives_;
    frame.meters = meters_;
    frame.contacts = contacts_;
    frame.sources.resize(pools_.size());

    size_t index = 0;
    for (size_t element = 0; element < effect.elements.size(); ++element) {
        if (const ParticlePool* pool = find_pool(effect.elements[element].id)) {
            const auto& emitter = std::get<Emitter>(effect.elements[element].body);
            const bool is_tinted = prepared_.elements[element]->birth_colours || !emitter.parent.empty();
            const bool has_form = emitter.form == Form::stretched;
            const FormRow form = has_form ? form_row(prepared_, element) : FormRow{};
            const Look* look = find_look(effect, emitter.look);
            const bool moves = effect.stage.shutter > 0 || (look != nullptr && shows_motion(*look));
            // Which of those that are far are drawn goes by number.
            const bool thins = effect.budget.keeper && effect.budget.far_turn > 0;
            const bool numbers = look != nullptr && (shows_numbers(*look) || thins);
            write_source(*pool, {is_tinted, moves, numbers, has_form ? &form : nullptr}, kernels_,
                         frame.sources[index]);
            const auto trails = trails_.find(effect.elements[element].id);
            frame.sources[index].trails.clear();
            if (trails != trails_.end() && look != nullptr) {
                trails->second.write(*pool, double(steps_) * step_s_, double(look->trail),
                                     frame.sources[index]);
            }
            frame.sources[index++].element = element;
        }
    }
    frame.sources.resize(index);
    clouds_.write(prepared_, frame.smokes);
    debris_.write(prepared_, frame.debris);
    write_stage(frame);
    show_played_pieces(prepared_, time_s(), frame.placements, frame.debris);
}

void Simulation::write_stage(Frame& frame) const {
    const Effect& effect = *prepared_.effect;
    frame.colliders.clear();
    frame.lights.clear();
    frame.assets = assets_;
    frame.placements = placements_at(prepared_, time_s());
    const std::vector<Placement>& placements = frame.placements;
    for (size_t element = 0; element < effect.elements.size(); ++element) {
        const auto* light = std::get_if<Light>(&effect.elements[element].body);
        if (light != nullptr && is_active(effect, effect.elements[element])) {
            frame.lights.push_back(light_at(*light, placements[element], element));
        }
        const Surface* surface = surface_of(effect.elements[element].body);
        FrameCollider collider{};
        const bool is_seen = surface != nullptr && surface->visible &&
                             is_active(effect, effect.elements[element]) &&
                             collider_row(prepared_, element, windows_.grids(), placements[element],
                                          placements[element], step_s_, collider.row);
        if (is_seen) {
            collider.colour = surface->colour;
            const auto window = windows_.grids().find(element);
            collider.grid =
                window != windows_.grids().end() ? window->second : prepared_.elements[element]->grid;
            if (const auto* plane = std::get_if<Plane>(&effect.elements[element].body)) {
                collider.mirror = plane->mirror;
                collider.puddles = plane->puddles;
            }
            frame.colliders.push_back(std::move(collider));
        }
    }
}

} // namespace ember
