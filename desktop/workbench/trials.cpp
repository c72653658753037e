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

Trials::~Trials() {
    cancel();
}

void Trials::cancel() {
    stops_ = true;
    if (thread_.joinable()) {
        thread_.join();
    }
    ++number_;
    if (std::exchange(is_running_, false)) {
        emit finished();
    }
}

void Trials::start(Order order) {
    cancel();
    stops_ = false;
    results_.clear();
    results_.resize(order.effects.size());
    progress_ = 0;
    is_running_ = !order.effects.empty();
    if (is_running_) {
        thread_ = std::thread([this, number = number_, order = std::move(order)] { run(order, number); });
    }
}

// On the interface's thread, unless another order has come since.
void Trials::tell(int number, std::function<void()> what) {
    QMetaObject::invokeMethod(
        this,
        [this, number, what = std::move(what)] {
            if (number == number_) {
                what();
            }
        },
        Qt::QueuedConnection);
}

void Trials::run(const Order& order, int number) {
    give_way();
    oneapi::tbb::task_arena alone(1); // other cores are for what plays
    alone.execute([&] {
        AssetLibrary library;
        Renderer renderer;
        Frame frame;
        const size_t count = order.effects.size();
        for (size_t i = 0; i < count && !stops_; ++i) {
            const auto effect = std::make_shared<const Effect>(order.effects[i]);
            const LoadResult loaded = library.load(*effect, order.folder.toStdString());
            Trial trial(effect, loaded.assets, order.at_s);
            int steps = 0;
            while (!stops_ && trial.step()) {
                constexpr int steps_a_word = 20;
                if (++steps % steps_a_word == 0) {
                    const double share = (double(i) + trial.progress()) / double(count);
                    tell(number, [this, share] { emit progressed(progress_ = share); });
                }
            }
            if (stops_) {
                return;
            }
            Result result;
            result.figures = trial.figures();
            result.problem =
                loaded.missing.empty() ? QString() : QString::fromStdString(loaded.missing.front().text());
            trial.simulation().write_frame(frame);
            while (!stops_) {
                renderer.draw(frame, *frame.now, order.camera, order.width, order.height, result.picture);
                if (renderer.is_settled()) {
                    break;
                }
            }
            tell(number, [this, i, count, result = std::move(result)]() mutable {
                results_[i] = std::move(result);
                progress_ = double(i + 1) / double(count);
                emit progressed(progress_);
                emit made(int(i));
            });
        }
        tell(number, [this] {
            is_running_ = false;
            emit finished();
        });
    });
}

} // namespace ember
