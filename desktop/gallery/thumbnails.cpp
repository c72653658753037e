#include "desktop/gallery/thumbnails.h"

#include "core/assets/assets.h"
#include "core/base/stopwatch.h"
#include "core/effect/effect_file.h"
#include "core/runtime/simulation.h"

#include <QFileInfo>

#include <chrono>
#include <map>

namespace ember {

namespace {

constexpr auto picture_time = std::chrono::milliseconds(50);
constexpr int steps_a_picture = 3;
constexpr double longest_turn_ms = 40;

} // namespace

// One of them, once it has been in sight.
struct Thumbnails::Running {
    explicit Running(const QString& path) {
        Effect effect = starter_effect();
        Assets assets;
        if (!path.isEmpty()) {
            const ReadResult read = read_effect(path.toStdString());
            if (!read.effect) {
                return; // stays dark
            }
            effect = *read.effect;
            assets = AssetLibrary().load(effect, QFileInfo(path).path().toStdString()).assets;
        }
        simulation.set_effect(std::make_shared<const Effect>(std::move(effect)), assets);
    }

    Simulation simulation;
    Renderer renderer;
    Frame frame;
    Picture picture;
};

Thumbnails::Thumbnails(const std::vector<QString>& paths, QSize pixels, QObject* parent)
    : QObject(parent), paths_(paths), pixels_(pixels), pictures_(paths.size()), thread_([this] { run(); }) {}

Thumbnails::~Thumbnails() {
    {
        const std::lock_guard lock(mutex_);
        stop_ = true;
    }
    wake_.notify_one();
    thread_.join();
}

void Thumbnails::setSeen(const std::vector<size_t>& seen) {
    {
        const std::lock_guard lock(mutex_);
        seen_ = seen;
    }
    wake_.notify_one();
}

QImage Thumbnails::picture(size_t index) const {
    const std::lock_guard lock(mutex_);
    return pictures_[index];
}

void Thumbnails::run() {
    std::map<size_t, std::unique_ptr<Running>> running;
    std::unique_lock lock(mutex_);
    while (!stop_) {
        wake_.wait(lock, [this] { return stop_ || !seen_.empty(); });
        const auto due = std::chrono::steady_clock::now() + picture_time;
        const std::vector<size_t> seen = seen_;
        for (size_t i = 0; i < seen.size() && !stop_; ++i) {
            lock.unlock();
            std::unique_ptr<Running>& one = running[seen[i]];
            if (!one) {
                one = std::make_unique<Running>(paths_[seen[i]]);
            }
            draw(*one, seen[i]);
            lock.lock();
        }
        lock.unlock();
        emit changed();
        lock.lock();
        wake_.wait_until(lock, due, [this] { return stop_; });
    }
}

void Thumbnails::draw(Running& running, size_t index) {
    Simulation& simulation = running.simulation;
    if (!simulation.effect()) {
        return;
    }
    // A long warm-up is spread over many turns, so that the others go on moving.
    const Stopwatch watch;
    for (int i = 0; i < steps_a_picture || simulation.is_warming_up(); ++i) {
        if (watch.elapsed_ms() > longest_turn_ms) {
            break;
        }
        simulation.step();
    }
    if (simulation.is_warming_up()) {
        return;
    }
    simulation.write_frame(running.frame);
    const Effect& effect = *simulation.effect();
    running.renderer.draw(running.frame, effect, camera_of(effect.stage), pixels_.width(), pixels_.height(),
                          running.picture);
    const QImage image(reinterpret_cast<const uchar*>(running.picture.pixels.data()), pixels_.width(),
                       pixels_.height(), pixels_.width() * 4, QImage::Format_RGB32);
    const std::lock_guard lock(mutex_);
    pictures_[index] = image.copy();
}

} // namespace ember
