#include <oneapi/tbb/task_arena.h> // before Qt, which makes macros of its words

#include "desktop/workbench/trials.h"

#include "core/assets/assets.h"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

namespace ember {

namespace {

// Of this thread alone.
void give_way() {
    constexpr int nicest = 15;
    setpriority(PRIO_PROCESS, id_t(gettid()), nicest);
}

} // namespace

Trials::Trials(QObject* parent) : QObject(parent) {
    connect(&beside_, &Beside::finished, this, &Trials::finished);
}

void Trials::start(Order order) {
    cancel();
    results_.clear();
    results_.resize(order.effects.size());
    progress_ = 0;
    if (!order.effects.empty()) {
        beside_.start([this, order = std::move(order)] { run(order); });
    }
}

void Trials::run(const Order& order) {
    give_way();
    oneapi::tbb::task_arena alone(1); // other cores are for what plays
    alone.execute([&] {
        AssetLibrary library;
        Renderer renderer;
        Frame frame;
        const size_t count = order.effects.size();
        for (size_t i = 0; i < count && !beside_.isCancelled(); ++i) {
            const auto effect = std::make_shared<const Effect>(order.effects[i]);
            const LoadResult loaded = library.load(*effect, order.folder.toStdString());
            Trial trial(effect, loaded.assets, {0, order.at_s});
            int steps = 0;
            while (!beside_.isCancelled() && trial.step()) {
                constexpr int steps_a_word = 20;
                if (++steps % steps_a_word == 0) {
                    const double share = (double(i) + trial.progress()) / double(count);
                    beside_.tell([this, share] { emit progressed(progress_ = share); });
                }
            }
            if (beside_.isCancelled()) {
                return;
            }
            Result result;
            result.figures = trial.figures();
            result.problem =
                loaded.missing.empty() ? QString() : QString::fromStdString(loaded.missing.front().text());
            trial.simulation().write_frame(frame);
            while (!beside_.isCancelled()) {
                renderer.draw(frame, *frame.now, order.camera, order.width, order.height, result.picture);
                if (renderer.is_settled()) {
                    break;
                }
            }
            beside_.tell([this, i, count, result = std::move(result)]() mutable {
                results_[i] = std::move(result);
                progress_ = double(i + 1) / double(count);
                emit progressed(progress_);
                emit made(int(i));
            });
        }
    });
}

} // namespace ember
