#include "desktop/workbench/beside.h"

#include "core/base/stopwatch.h"

#include <utility>

namespace ember {

void Beside::cancel() {
    is_cancelled_ = true;
    if (thread_.joinable()) {
        thread_.join();
    }
    ++number_;
    if (std::exchange(is_running_, false)) {
        emit finished();
    }
}

void Beside::start(std::function<void()> work) {
    cancel();
    is_cancelled_ = false;
    is_running_ = true;
    thread_ = std::thread([this, work = std::move(work)] {
        work();
        tell([this] {
            is_running_ = false;
            emit finished();
        });
    });
}

void Beside::tell(std::function<void()> what) {
    // No other work begins while this runs, so that the number is its own.
    QMetaObject::invokeMethod(
        this,
        [this, number = number_, what = std::move(what)] {
            if (number == number_) {
                what();
            }
        },
        Qt::QueuedConnection);
}

RunTrials Beside::inTurns(Turns& turns) {
    return [this, &turns](std::span<Trial> trials) {
        constexpr double turn_ms = 10; // about what a picture takes
        for (bool goes_on = true; goes_on;) {
            const Turns::Held turn(turns);
            const Stopwatch watch;
            do {
                goes_on = false;
                for (Trial& trial : trials) {
                    if (is_cancelled_) {
                        return false;
                    }
                    goes_on = trial.step() || goes_on;
                }
            } while (goes_on && watch.elapsed_ms() < turn_ms);
        }
        return true;
    };
}

} // namespace ember
