#include "core/runtime/clips.h"

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

} // namespace ember
