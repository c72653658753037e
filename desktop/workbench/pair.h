// Two versions of an effect that run in step: on one clock, with the same inputs reaching each step of both.
#pragma once

#include "core/assets/assets.h"
#include "core/base/triple_buffer.h"
#include "core/runtime/simulation.h"
#include "render/renderer.h"

#include <QObject>
#include <QSize>
#include <QString>

#include <array>
#include <atomic>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>
#include <vector>

namespace ember {

/// What both have come to.
struct PairShot {
    struct Side {
        EffectPtr effect;
        Picture picture;
        Meters meters;
        double picture_ms = 0;
        size_t bytes = 0; // of particles

        double frame_ms() const { return meters.step_ms + picture_ms; }
    };
    double time_s = 0;
    std::array<Side, 2> sides;
};

/// What a step of both cost, with its picture.
struct PairCost {
    double time_s = 0;
    std::array<float, 2> frame_ms{};
};

class Pair : public QObject {
    Q_OBJECT

  public:
    /// Files that `library` has read are not read again.
    explicit Pair(AssetLibrary& library, QObject* parent = nullptr);
    ~Pair() override;

    /// Takes effect at the next step, as an edit does; files are read from `folder` first.
    void setVersion(int side, EffectPtr effect, const QString& folder);
    /// Both from their starts.
    void rewind();
    void setPlaying(bool playing);
    bool isPlaying() const { return is_playing_; }
    void setCamera(const Camera& camera);
    /// Of each picture.
    void setSize(QSize pixels);
    void setPointer(const std::optional<PointerRay>& ray);
    void click();

    const PairShot& shot() const { return shots_.front(); }
    /// True if shot() has become a newer one.
    bool takeShot();
    /// Of the steps since this was last asked.
    std::vector<PairCost> takeCosts();

  signals:
    void ready();
    /// A file of one side could not be read.
    void lacked(int side, const QString& problem);

  private:
    struct Version {
        EffectPtr effect;
        QString folder;
    };
    struct Order {
        std::array<std::optional<Version>, 2> versions; // that are new
        bool rewinds = false;
        bool is_due = false; // a picture, without a step
        Camera camera;
        QSize size = {1, 1};
        StepInputs inputs;
    };
    void change(auto set);
    void run();
    void take(int side, const Version& version);
    void step(const StepInputs& inputs);
    void draw(const Order& order);

    // Of the thread.
    AssetLibrary& library_;
    std::array<Simulation, 2> simulations_;
    std::array<Renderer, 2> renderers_;
    std::array<Frame, 2> frames_;
    TripleBuffer<PairShot> shots_;
    std::atomic<bool> announced_ = false;

    std::mutex mutex_;
    std::condition_variable wake_;
    Order order_;
    std::vector<PairCost> costs_;
    std::atomic<bool> is_playing_ = false;
    bool stop_ = false;
    std::thread thread_;
};

} // namespace ember
