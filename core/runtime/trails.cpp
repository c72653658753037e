#include "core/runtime/trails.h"

#include <algorithm>
#include <iterator>

namespace ember {

namespace {

constexpr double least_apart_s = 0.05; // closer samples than in every third step show nothing more

} // namespace

Trails::Entries Trails::entries_of(const ParticlePool& pool) {
    Entries entries;
    entries.reserve(pool.live());
    for (const auto& block : pool.blocks()) {
        for (int i = 0; i < block->count; ++i) {
            entries.push_back({block->number[i],
                               {block->x[i], block->y[i], block->z[i]},
                               std::clamp(block->age[i] / block->lifetime[i], 0.0f, 1.0f),
                               block->size[i],
                               block->mark[i]});
        }
    }
    return entries;
}

void Trails::add(const ParticlePool& pool, double time_s, double length_s) {
    if (!samples_.empty() && time_s < samples_.front().time_s) {
        samples_.clear(); // started again
    }
    const double apart = std::max(length_s / (most_samples - 2), least_apart_s);
    if (samples_.empty() || time_s - samples_.front().time_s >= apart * 0.999) {
        samples_.push_front({time_s, entries_of(pool)});
    }
    // One sample more than the length: the end moves smoothly between the last two.
    while (samples_.size() > 2 && time_s - samples_[samples_.size() - 2].time_s > length_s) {
        samples_.pop_back();
    }
}

void Trails::write(const ParticlePool& pool, double time_s, double length_s, FrameSource& source) const {
    source.trails.clear();
    source.trail_points.clear();
    // Everyone who is or was there, in order of birth.
    const Entries now = entries_of(pool);
    const auto is_earlier = [](const Entry& a, const Entry& b) { return a.number < b.number; };
    Entries dead; // with what they were when they were last seen
    const Entries* later = &now;
    for (const Sample& sample : samples_) {
        std::set_difference(sample.entries.begin(), sample.entries.end(), later->begin(), later->end(),
                            std::back_inserter(dead), is_earlier);
        later = &sample.entries;
    }
    std::sort(dead.begin(), dead.end(), is_earlier);
    Entries all;
    all.reserve(now.size() + dead.size());
    std::merge(now.begin(), now.end(), dead.begin(), dead.end(), std::back_inserter(all), is_earlier);
    std::vector<size_t> cursors(samples_.size(), 0);
    size_t live = 0;
    for (const Entry& one : all) {
        FrameTrail trail = {uint32_t(source.trail_points.size()), 0, one.age_share, one.size, one.mark};
        const auto add_point = [&](const Vec3& place, double age_s) {
            source.trail_points.push_back({place, float(age_s / length_s)});
            ++trail.count;
        };
        if (live < now.size() && now[live].number == one.number) {
            add_point(one.place, 0);
            ++live;
        }
        for (size_t s = 0; s < samples_.size(); ++s) {
            const Entries& entries = samples_[s].entries;
            if (cursors[s] >= entries.size() || entries[cursors[s]].number != one.number) {
                continue;
            }
            const Entry& then = entries[cursors[s]++];
            const double age_s = time_s - samples_[s].time_s;
            if (age_s <= 1e-9 && trail.count > 0) {
                continue; // the place that it has now
            }
            if (age_s <= length_s) {
                add_point(then.place, age_s);
            } else if (trail.count > 0) {
                // Between the last point and this one the trail is as long as it may be.
                const FrameTrailPoint& last = source.trail_points.back();
                const double last_s = double(last.share) * length_s;
                const auto way = float((length_s - last_s) / std::max(age_s - last_s, 1e-9));
                if (way > 0 && last.share < 1) {
                    add_point(last.place + (then.place - last.place) * way, length_s);
                }
                break;
            }
        }
        if (trail.count > 1) {
            source.trails.push_back(trail);
        } else {
            source.trail_points.resize(trail.first);
        }
    }
}

size_t Trails::bytes() const {
    size_t entries = 0;
    for (const Sample& sample : samples_) {
        entries += sample.entries.size();
    }
    return entries * sizeof(Entry);
}

} // namespace ember
