#include "core/runtime/clips.h"

#include "core/assets/piece_clip.h"
#include "core/base/stopwatch.h"
#include "core/particles/clip_play.h"

#include <set>

namespace ember {

bool plays_clip(const RunningSource& source) {
    return source.program->emitter->shape == BirthShape::clip;
}

void play_clips(const PreparedEffect& prepared, const std::vector<RunningSource>& sources,
                const StepTime& time, std::vector<ParticleEvents>& events, Meters& meters) {
    const std::vector<EventUse> uses = event_uses(prepared, sources);
    for (size_t s = 0; s < sources.size(); ++s) {
        if (!plays_clip(sources[s])) {
            continue;
        }
        const Stopwatch watch;
        const SourceProgram& program = *sources[s].program;
        const Emitter& emitter = *program.emitter;
        const std::shared_ptr<const Clip>& clip = program.ready->clip;
        const auto at = clip != nullptr
                            ? clip_time(emitter, clip->frames_per_s, clip->frames.size(), time.end_s())
                            : std::nullopt;
        ParticleBlocks shown = at ? clip_particles(emitter, *clip, *at, program.to) : ParticleBlocks();
        if (uses[s].deaths) {
            std::set<uint32_t> there;
            for (const auto& block : shown) {
                there.insert(block->number, block->number + block->count);
            }
            const ParentColours colours(*prepared.effect, emitter);
            for (const auto& block : sources[s].pool->blocks()) {
                for (int i = 0; i < block->count; ++i) {
                    if (!there.contains(block->number[i])) {
                        events[s].deaths.push_back({{block->x[i], block->y[i], block->z[i]},
                                                    {block->vx[i], block->vy[i], block->vz[i]},
                                                    colours.of(*block, i),
                                                    block->number[i],
                                                    0});
                    }
                }
            }
        }
        sources[s].pool->show(std::move(shown));
        const double ms = watch.elapsed_ms();
        meters.elements[program.element].ms += ms;
        meters.births_ms += ms;
    }
}

namespace {

// `visit(element, breakable, clip, frame)` for those that show something.
void each_played(const PreparedEffect& prepared, double time_s, auto visit) {
    const Effect& effect = *prepared.effect;
    for (size_t i = 0; i < effect.elements.size(); ++i) {
        const auto* breakable = std::get_if<Breakable>(&effect.elements[i].body);
        const PieceClip* clip = prepared.elements[i]->piece_clip.get();
        if (breakable == nullptr || clip == nullptr || !is_active(effect, effect.elements[i])) {
            continue;
        }
        if (const auto at = clip_time(*breakable, clip->frames_per_s, clip->frames(), time_s)) {
            visit(i, *breakable, *clip, at->frame);
        }
    }
}

bool plays(const Breakable& breakable, const PieceClip& clip, size_t piece) {
    return breakable.clip_body == 0 || clip.bodies[piece] + 1 == uint32_t(breakable.clip_body);
}

} // namespace

void count_played_pieces(const PreparedEffect& prepared, const StepTime& time, Meters& meters) {
    each_played(prepared, time.end_s(),
                [&](size_t element, const auto& breakable, const auto& clip, double frame) {
                    size_t count = 0;
                    for (size_t i = 0; i < clip.bodies.size(); ++i) {
                        count += plays(breakable, clip, i) && clip.at(i, frame).size > 0 ? 1 : 0;
                    }
                    meters.elements[element].debris.pieces = meters.elements[element].live = count;
                    meters.debris.pieces += count;
                });
}

void show_played_pieces(const PreparedEffect& prepared, double time_s,
                        const std::vector<Placement>& placements, std::vector<FrameDebris>& out) {
    each_played(prepared, time_s, [&](size_t element, const auto& breakable, const auto& clip, double frame) {
        const Placement& placed = placements[element];
        FrameDebris shown{element, clip.shapes, {}};
        for (size_t i = 0; i < clip.bodies.size(); ++i) {
            const PieceKey key = clip.at(i, frame);
            if (plays(breakable, clip, i) && key.size > 0) {
                const Quaternion turn = Quaternion::of(placed.axes) * key.turn;
                shown.pieces.push_back(
                    {uint32_t(i),
                     uint32_t(i),
                     {placed.position + placed.axes.out(key.place * breakable.scale), turn.axes()},
                     key.size * breakable.scale,
                     1});
            }
        }
        out.push_back(std::move(shown));
    });
}

} // namespace ember
