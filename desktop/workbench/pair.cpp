#include "desktop/workbench/pair.h"

#include <algorithm>
#include <chrono>
#include <utility>

namespace ember {

Pair::Pair(AssetLibrary& library, QObject* parent)
    : QObject(parent), library_(library), thread_([this] { run(); }) {}

Pair::~Pair() {
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_one();
    thread_.join();
}

void Pair::change(auto set) {
    {
        const std::lock_guard lock(mutex_);
        set();
        order_.is_due = true;
    }
    wake_.notify_one();
}

void Pair::setVersion(int side, EffectPtr effect, const QString& folder) {
    change([&] { order_.versions[size_t(side)] = Version{std::move(effect), folder}; });
}

void Pair::rewind() {
    change([&] { order_.rewinds = true; });
}

void Pair::setPlaying(bool playing) {
    is_playing_ = playing;
    change([] {});
}

void Pair::setCamera(const Camera& camera) {
    change([&] { order_.camera = camera; });
}

void Pair::setSize(QSize pixels) {
    change([&] { order_.size = pixels.expandedTo({1, 1}); });
}

void Pair::setPointer(const std::optional<PointerRay>& ray) {
    const std::lock_guard lock(mutex_);
    order_.inputs.pointer = ray;
}

void Pair::click() {
    const std::lock_guard lock(mutex_);
    ++order_.inputs.clicks;
}

bool Pair::takeShot() {
    announced_ = false;
    return shots_.take();
}

std::vector<PairCost> Pair::takeCosts() {
    const std::lock_guard lock(mutex_);
    return std::exchange(costs_, {});
}

void Pair::take(int side, const Version& version) {
    const LoadResult loaded = library_.load(*version.effect, version.folder.toStdString());
    if (!loaded.missing.empty()) {
        emit lacked(side, QString::fromStdString(loaded.missing.front().text()));
    }
    simulations_[size_t(side)].set_effect(version.effect, loaded.assets);
}

void Pair::run() {
    using Clock = std::chrono::steady_clock;
    const auto step_time =
        std::chrono::duration_cast<Clock::duration>(std::chrono::duration<double>(simulations_[0].step_s()));
    Clock::time_point due = Clock::now();
    std::unique_lock lock(mutex_);
    while (!stop_) {
        const bool can_step = simulations_[0].effect() && simulations_[1].effect();
        const bool warms_up =
            can_step && (simulations_[0].is_warming_up() || simulations_[1].is_warming_up());
        if (!warms_up) {
            if (is_playing_ && can_step) {
                wake_.wait_until(lock, due, [&] { return stop_; });
            } else {
                wake_.wait(lock, [&] { return stop_ || order_.is_due; });
            }
        }
        if (stop_) {
            return;
        }
        const Order order = order_;
        order_.versions = {};
        order_.rewinds = order_.is_due = false;
        order_.inputs.clicks = 0;
        lock.unlock();

        for (int side = 0; side < 2; ++side) {
            if (const auto& version = order.versions[size_t(side)]) {
                take(side, *version);
            }
        }
        if (order.rewinds) {
            for (Simulation& simulation : simulations_) {
                simulation.rewind();
            }
        }
        const bool is_ready = simulations_[0].effect() && simulations_[1].effect();
        const bool steps = is_ready && (is_playing_ || warms_up);
        if (steps) {
            step(order.inputs);
            // Steps of the warm-up are not due at any time, and what is late is not caught up with.
            const Clock::time_point now = Clock::now();
            due = warms_up ? now : std::max(due + step_time, now - step_time);
        }
        if (is_ready && !warms_up) {
            draw(order);
        }
        lock.lock();
        if (steps && !warms_up) {
            const auto frame_ms = [this](size_t side) {
                return float(simulations_[side].meters().step_ms + renderers_[side].meters().total_ms);
            };
            costs_.push_back({simulations_[0].time_s(), {frame_ms(0), frame_ms(1)}});
        }
    }
}

// Both on the artist's clock: one with a longer warm-up is waited for.
void Pair::step(const StepInputs& inputs) {
    const bool one_warms_up = simulations_[0].is_warming_up() || simulations_[1].is_warming_up();
    for (Simulation& simulation : simulations_) {
        if (simulation.is_warming_up() || !one_warms_up) {
            simulation.step(one_warms_up ? StepInputs() : inputs);
        }
    }
}

void Pair::draw(const Order& order) {
    PairShot& shot = shots_.back();
    shot.time_s = simulations_[0].time_s();
    for (size_t i = 0; i < 2; ++i) {
        simulations_[i].write_frame(frames_[i]);
        const Frame& frame = frames_[i];
        PairShot::Side& side = shot.sides[i];
        renderers_[i].draw(frame, *frame.now, order.camera, order.size.width(), order.size.height(),
                           side.picture);
        side.effect = frame.effect;
        side.meters = frame.meters;
        side.picture_ms = renderers_[i].meters().total_ms;
        side.bytes = frame.meters.bytes;
    }
    shots_.publish();
    if (!announced_.exchange(true)) {
        emit ready();
    }
}

} // namespace ember
