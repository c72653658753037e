#include "core/runtime/simulation.h"

#include "core/base/stopwatch.h"

#include <oneapi/tbb/combinable.h>
#include <oneapi/tbb/parallel_for.h>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// Processor time by element and by phase; each thread writes its own sheet.
struct CostSheet {
    explicit CostSheet(size_t elements) : element_ms(elements) {}

    std::vector<double> element_ms;
    double forces_ms = 0;
    double collision_ms = 0;
    double deaths_ms = 0;

    double total_ms() const { return forces_ms + collision_ms + deaths_ms; }
};

struct Work {
    const SourceProgram* program;
    ParticleBlock* block;
};

// One block through one step: forces, motion, collisions, deaths.
void step_block(const Work& work, float step_s, const BlockKernels& run, CostSheet& cost) {
    ForceSums sums;
    PathStarts starts;
    ParticleBlock& block = *work.block;
    const SourceProgram& program = *work.program;
    Stopwatch watch;

    run.clear(block, sums);
    for (const Influence<ForceRow>& force : program.forces) {
        run.add_force(force.row, block, sums);
        const double ms = watch.lap_ms();
        cost.element_ms[force.element] += ms;
        cost.forces_ms += ms;
    }
    run.advance(sums, step_s, block, starts);
    const double motion_ms = watch.lap_ms();
    cost.element_ms[program.element] += motion_ms;
    cost.forces_ms += motion_ms;

    for (const Influence<ColliderRow>& collider : program.colliders) {
        run.collide(collider.row, starts, step_s, block);
        const double ms = watch.lap_ms();
        cost.element_ms[collider.element] += ms;
        cost.collision_ms += ms;
    }
    ParticlePool::bury(block);
    const double deaths_ms = watch.lap_ms();
    cost.element_ms[program.element] += deaths_ms;
    cost.deaths_ms += deaths_ms;
}

uint16_t share_of_65535(float share) {
    return uint16_t(std::clamp(share, 0.0f, 1.0f) * 65535.0f + 0.5f);
}

} // namespace

Simulation::Simulation(Isa isa, double step_s) : kernels_(block_kernels(isa)), step_s_(step_s) {}

void Simulation::set_effect(EffectPtr effect) {
    // The last step's meters stay readable: they move to the places that their elements have now.
    std::vector<ElementMeter> elements(effect->elements.size());
    for (size_t i = 0; i < meters_.elements.size(); ++i) {
        for (size_t j = 0; j < elements.size(); ++j) {
            if (effect_->elements[i].id == effect->elements[j].id) {
                elements[j] = meters_.elements[i];
            }
        }
    }
    meters_.elements = std::move(elements);
    effect_ = std::move(effect);
}

void Simulation::rewind() {
    pools_.clear();
    steps_ = 0;
    meters_ = Meters();
    meters_.elements.resize(effect_ ? effect_->elements.size() : 0);
}

void Simulation::step() {
    Stopwatch whole;
    meters_ = Meters();
    meters_.elements.resize(effect_->elements.size());

    const std::vector<SourceProgram> programs = compiled(*effect_, time_s(), steps_);
    keep_only(programs);

    for (const SourceProgram& program : programs) {
        Stopwatch watch;
        pools_[effect_->elements[program.element].id].give_birth(program, step_s_, kernels_);
        const double ms = watch.elapsed_ms();
        meters_.elements[program.element].ms += ms;
        meters_.births_ms += ms;
    }
    step_blocks(programs);
    for (const SourceProgram& program : programs) {
        Stopwatch watch;
        pools_[effect_->elements[program.element].id].close_ranks();
        const double ms = watch.elapsed_ms();
        meters_.elements[program.element].ms += ms;
        meters_.births_ms += ms;
    }
    ++steps_;
    read_meters(programs);
    meters_.step_ms = whole.elapsed_ms();
}

void Simulation::keep_only(const std::vector<SourceProgram>& programs) {
    std::erase_if(pools_, [&](const auto& entry) {
        return std::none_of(programs.begin(), programs.end(), [&](const SourceProgram& program) {
            return effect_->elements[program.element].id == entry.first;
        });
    });
}

void Simulation::step_blocks(const std::vector<SourceProgram>& programs) {
    std::vector<Work> work;
    for (const SourceProgram& program : programs) {
        for (const auto& block : pools_[effect_->elements[program.element].id].blocks()) {
            work.push_back({&program, block.get()});
        }
    }

    Stopwatch watch;
    tbb::combinable<CostSheet> sheets([this] { return CostSheet(effect_->elements.size()); });
    tbb::parallel_for(tbb::blocked_range<size_t>(0, work.size(), 4), [&](const auto& range) {
        CostSheet& sheet = sheets.local();
        for (size_t i = range.begin(); i < range.end(); ++i) {
            step_block(work[i], float(step_s_), kernels_, sheet);
        }
    });
    const double wall_ms = watch.elapsed_ms();

    // Processor time is scaled so that the parts add up to the wall-clock time that the artist waits for.
    double processor_ms = 1e-9;
    sheets.combine_each([&](const CostSheet& sheet) { processor_ms += sheet.total_ms(); });
    const double scale = wall_ms / processor_ms;
    sheets.combine_each([&](const CostSheet& sheet) {
        meters_.forces_ms += sheet.forces_ms * scale;
        meters_.collision_ms += sheet.collision_ms * scale;
        meters_.births_ms += sheet.deaths_ms * scale;
        for (size_t i = 0; i < sheet.element_ms.size(); ++i) {
            meters_.elements[i].ms += sheet.element_ms[i] * scale;
        }
    });
}

void Simulation::read_meters(const std::vector<SourceProgram>& programs) {
    for (const SourceProgram& program : programs) {
        const ParticlePool& pool = pools_[effect_->elements[program.element].id];
        ElementMeter& meter = meters_.elements[program.element];
        meter.live = pool.live();
        meter.born = pool.born() - pool.refused();
        meter.refused = pool.refused();
        meters_.particles += pool.live();
        meters_.bytes += pool.bytes();
    }
}

const ParticlePool* Simulation::find_pool(const std::string& source_id) const {
    const auto found = pools_.find(source_id);
    return found == pools_.end() ? nullptr : &found->second;
}

void Simulation::write_frame(Frame& frame) const {
    frame.effect = effect_;
    frame.time_s = time_s();
    frame.step = steps_;
    frame.meters = meters_;
    frame.sources.resize(pools_.size());

    size_t index = 0;
    for (size_t element = 0; element < effect_->elements.size(); ++element) {
        const ParticlePool* pool = find_pool(effect_->elements[element].id);
        if (pool == nullptr) {
            continue;
        }
        FrameSource& source = frame.sources[index++];
        source.element = element;
        if (source.particles.capacity() < pool->live()) {
            // A little more than needed, and not the double that a growing vector would take.
            source.particles.reserve(pool->live() + pool->live() / 16);
        }
        source.particles.resize(pool->live());

        const ParticlePool::Blocks& blocks = pool->blocks();
        std::vector<size_t> starts(blocks.size());
        source.largest_size = 0;
        for (size_t i = 0, start = 0; i < blocks.size(); ++i) {
            starts[i] = start;
            start += size_t(blocks[i]->count);
            source.largest_size = std::max(
                source.largest_size, *std::max_element(blocks[i]->size, blocks[i]->size + blocks[i]->count));
        }
        const float size_scale = 1 / std::max(source.largest_size, 1e-9f);
        tbb::parallel_for(size_t(0), blocks.size(), [&](size_t b) {
            const ParticleBlock& block = *blocks[b];
            FrameParticle* out = source.particles.data() + starts[b];
            for (int i = 0; i < block.count; ++i) {
                out[i] = {block.x[i], block.y[i], block.z[i],
                          share_of_65535(block.age[i] / block.lifetime[i]),
                          share_of_65535(block.size[i] * size_scale)};
            }
        });
    }
    frame.sources.resize(index);
}

} // namespace ember
