#include "core/particles/pool.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace ember {

namespace {

// Runs `move` over each of a block's arrays and the same array of another.
void each_array(ParticleBlock& to, const ParticleBlock& from, auto move) {
    move(to.x, from.x);
    move(to.y, from.y);
    move(to.z, from.z);
    move(to.vx, from.vx);
    move(to.vy, from.vy);
    move(to.vz, from.vz);
    move(to.age, from.age);
    move(to.lifetime, from.lifetime);
    move(to.size, from.size);
    move(to.number, from.number);
    move(to.mark, from.mark);
}

// Appends `count` particles of `from`, beginning at `first`.
void append_range(ParticleBlock& to, const ParticleBlock& from, int first, int count) {
    each_array(to, from, [&](auto* target, const auto* source) {
        std::copy_n(source + first, count, target + to.count);
    });
    to.count += count;
}

void drop_front(ParticleBlock& block, int count) {
    each_array(block, block, [&](auto* target, const auto* source) {
        std::copy(source + count, source + block.count, target);
    });
    block.count -= count;
}

// Blocks in a row that are merged into one less if they fit: full blocks stay at least (run - 1) / run full,
// and nothing is moved twice without deaths in between.
constexpr size_t merge_run = 6;

} // namespace

ParticlePool::ParticlePool(const ParticlePool& other)
    : rests_(other.rests_), live_(other.live_), debt_(other.debt_), born_(other.born_),
      refused_(other.refused_), refused_then_(other.refused_then_), lately_(other.lately_) {
    for (const auto& block : other.blocks_) {
        blocks_.push_back(std::make_unique<ParticleBlock>(*block));
    }
}

std::unique_ptr<ParticleBlock> ParticlePool::fresh_block() {
    if (spare_.empty()) {
        return std::make_unique<ParticleBlock>();
    }
    auto block = std::move(spare_.back());
    spare_.pop_back();
    block->count = 0;
    return block;
}

void ParticlePool::append(const ParticleBlock& newborns) {
    int done = 0;
    while (done < newborns.count) {
        if (blocks_.empty() || blocks_.back()->count == block_size) {
            blocks_.push_back(fresh_block());
        }
        ParticleBlock& last = *blocks_.back();
        const int fits = std::min(block_size - last.count, newborns.count - done);
        append_range(last, newborns, done, fits);
        done += fits;
    }
}

uint32_t ParticlePool::give_birth(const SourceProgram& program, const StepTime& time,
                                  const BlockKernels& kernels) {
    const BirthList births = births_due(program, time, debt_);
    bear(program, births, kernels);
    return births.bursts;
}

void ParticlePool::bear(const SourceProgram& program, const BirthList& list, const BlockKernels& kernels) {
    const std::vector<BirthOrigin>& origins = list.origins;
    const auto capacity = size_t(program.emitter->capacity);
    const size_t births = std::min(origins.size(), capacity - std::min(capacity, live_));
    refused_ += list.due - births;

    const auto& colours = program.ready->birth_colours;
    const bool is_tinted = colours || !program.emitter->parent.empty();
    ParticleBlock newborns;
    BirthOrigins from{};
    for (size_t done = 0; done < births; done += size_t(newborns.count)) {
        const int count = int(std::min<size_t>(births - done, block_size));
        for (int i = 0; i < count; ++i) {
            const BirthOrigin& origin = origins[done + size_t(i)];
            from.x[i] = origin.position.x;
            from.y[i] = origin.position.y;
            from.z[i] = origin.position.z;
            from.vx[i] = origin.velocity.x;
            from.vy[i] = origin.velocity.y;
            from.vz[i] = origin.velocity.z;
            from.moment[i] = origin.moment;
        }
        kernels.give_birth(program.birth, uint32_t(born_ + done), count, from, newborns);
        for (int i = 0; i < count; ++i) {
            newborns.mark[i] = Mark();
            if (is_tinted) {
                Colour tint = origins[done + size_t(i)].tint;
                if (colours) {
                    tint = tint *
                           colours->at(kernels.chance(program.birth.seed, newborns.number[i], FOR_COLOUR));
                }
                newborns.mark[i].set_tint(tint);
            }
        }
        append(newborns);
    }
    // Refused births take their numbers with them: what others look like does not depend on the capacity.
    born_ += list.due;
    live_ += births;
}

void ParticlePool::bury(ParticleBlock& block) {
    int dead[block_size];
    int deaths = 0;
    for (int i = 0; i < block.count; ++i) {
        dead[deaths] = i;
        deaths += block.age[i] < block.lifetime[i] ? 0 : 1;
    }
    if (deaths == 0) {
        return;
    }
    // The living between two dead ones move together.
    each_array(block, block, [&](auto* target, const auto* source) {
        int to = dead[0];
        for (int d = 0; d < deaths; ++d) {
            const int first = dead[d] + 1;
            const int last = d + 1 < deaths ? dead[d + 1] : block.count;
            std::copy(source + first, source + last, target + to);
            to += last - first;
        }
    });
    block.count -= deaths;
}

void ParticlePool::close_ranks() {
    for (size_t first = 0; first < blocks_.size(); ++first) {
        const size_t last = std::min(first + merge_run, blocks_.size());
        int total = 0;
        for (size_t i = first; i < last; ++i) {
            total += blocks_[i]->count;
        }
        if (total > int(last - first - 1) * block_size) {
            continue;
        }
        // Fill each block of the run from the ones behind it; the last ends up empty.
        for (size_t i = first; i + 1 < last; ++i) {
            for (size_t j = i + 1; j < last && blocks_[i]->count < block_size; ++j) {
                const int moved = std::min(block_size - blocks_[i]->count, blocks_[j]->count);
                append_range(*blocks_[i], *blocks_[j], 0, moved);
                drop_front(*blocks_[j], moved);
            }
        }
        // On behind the run: its empty last block must not draw all later ones forward, one after the other.
        first = last - 1;
    }
    const auto is_empty = [](const auto& block) { return block->count == 0; };
    for (auto& block : blocks_) {
        if (is_empty(block) && spare_.size() < 8) {
            spare_.push_back(std::move(block));
        }
    }
    std::erase_if(blocks_, [&](const auto& block) { return !block || is_empty(block); });
    refused_then_[lately_] = refused_;
    lately_ = (lately_ + 1) % lately_steps;
    live_ = std::accumulate(blocks_.begin(), blocks_.end(), size_t(0),
                            [](size_t sum, const auto& block) { return sum + size_t(block->count); });
}

void ParticlePool::show(Blocks blocks) {
    const size_t before = live_;
    blocks_ = std::move(blocks);
    live_ = std::accumulate(blocks_.begin(), blocks_.end(), size_t(0),
                            [](size_t sum, const auto& block) { return sum + size_t(block->count); });
    born_ += live_ > before ? live_ - before : 0;
}

void ParticlePool::clear() {
    *this = ParticlePool();
}

} // namespace ember
