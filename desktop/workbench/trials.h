// Versions of an effect that are tried beside the one that plays: each is run from its start to a moment and
// drawn, one after the other, on a thread that gives way to what the artist sees.
#pragma once

#include "desktop/workbench/beside.h"
#include "render/renderer.h"

#include <QString>

#include <optional>
#include <vector>

namespace ember {

class Trials : public QObject {
    Q_OBJECT

  public:
    struct Order {
        std::vector<Effect> effects;
        QString folder; // where their files lie
        double at_s = 0;
        int width = 320, height = 200; // of the pictures
        Camera camera;
    };
    struct Result {
        TrialFigures figures;
        Picture picture;
        QString problem; // files that could not be read; empty: none
    };

    explicit Trials(QObject* parent = nullptr);

    /// In place of what still ran. No effect: only that.
    void start(Order order);
    /// What has been made stays; takes at most a step and a picture.
    void cancel() { beside_.cancel(); }
    bool isRunning() const { return beside_.isRunning(); }
    /// Of all that were ordered, 0 to 1.
    double progress() const { return progress_; }
    /// By the order of the effects; nothing until it has been made.
    const std::vector<std::optional<Result>>& results() const { return results_; }

  signals:
    void made(int index);
    void progressed(double share);
    /// All of them, or as far as they came before cancel().
    void finished();

  private:
    void run(const Order& order);

    double progress_ = 0;
    std::vector<std::optional<Result>> results_;
    Beside beside_; // the first to go: its work tells the others
};

} // namespace ember
