// Long work beside the effect that plays: on a thread of its own, to be cancelled at any time.
#pragma once

#include "core/base/turns.h"
#include "core/budget/worth.h"

#include <QObject>

#include <atomic>
#include <functional>
#include <thread>

namespace ember {

class Beside : public QObject {
    Q_OBJECT

  public:
    using QObject::QObject;
    ~Beside() override { cancel(); }

    /// In place of what still ran.
    void start(std::function<void()> work);
    /// Waits for the work to see it: a step and a picture at the most.
    void cancel();
    bool isRunning() const { return is_running_; }

    // For the work, on its thread:
    bool isCancelled() const { return is_cancelled_; }
    /// Runs on the interface's thread, unless other work has been started since.
    void tell(std::function<void()> what);
    /// Runs trials to their ends, in turns with the steps and pictures of what plays: both are measured as if
    /// they were alone. A turn is about as long as a picture.
    RunTrials inTurns(Turns& turns);

  signals:
    /// To its end, or cancelled.
    void finished();

  private:
    std::thread thread_;
    std::atomic<bool> is_cancelled_ = false;
    int number_ = 0; // of the work: what older work still tells is not heard
    bool is_running_ = false;
};

} // namespace ember
