// Draws the newest frame on a thread of its own, so that the interface never waits for a picture.
#pragma once

#include "core/base/triple_buffer.h"
#include "core/runtime/player.h"
#include "desktop/workbench/readings.h"
#include "render/still.h"

#include <QObject>
#include <QPointF>
#include <QSize>

#include <atomic>
#include <condition_variable>
#include <mutex>
#include <optional>
#include <thread>

namespace ember {

/// A finished picture with what it was drawn from.
struct Shot {
    Picture picture;
    Camera camera;
    Readings readings;
    std::vector<FrameContact> contacts; // of the step, if they are noted
    HeatMap heat;                       // empty if it is not asked for
};

class PictureMaker : public QObject {
    Q_OBJECT

  public:
    /// Takes frames from `player`, which outlives this.
    explicit PictureMaker(Player& player, QObject* parent = nullptr);
    ~PictureMaker() override;

    /// A new frame is there. May be called from any thread.
    void wake();
    void setCamera(const Camera& camera);
    /// Through the effect's own camera as it is keyed, in place of that one.
    void setFlying(bool on);
    void setSize(QSize pixels);
    void setTint(DotTint tint);
    void setHeat(bool on);
    /// Breakables as they are cut, with pieces so far apart.
    void setCutApart(std::optional<float> apart);
    /// Saves the newest frame, see save_still(); exported() follows.
    void exportPicture(const QString& path, const StillOptions& options);
    /// Finds out what is seen at a place of the picture (shares of its width and height): pointFound()
    /// follows.
    void askPoint(QPointF place);
    /// The source whose spread along life the readings shall hold; empty: none.
    void watch(const std::string& source_id);

    /// The newest picture; empty before the first. Only for the interface's thread.
    const Shot& shot() const { return shots_.front(); }
    /// True if shot() has become a newer one.
    bool takeShot();

  signals:
    /// A new picture can be taken.
    void ready();
    /// `problem`: why it was not saved; empty if it was.
    void exported(const QString& path, const QString& problem);
    /// The place of what is seen where askPoint() asked; far off if it was the sky.
    void pointFound(const ember::Vec3& point);

  private:
    struct Order {
        Camera camera;
        QSize size;
        std::string watched;
        DotTint tint = DotTint::look;
        bool heat = false;
        bool is_flying = false;
        std::optional<float> cut_apart;
        std::optional<QPointF> asked; // for one picture
        QString export_path;          // the same
        StillOptions export_options;
    };
    void change(auto set);
    void run();
    void draw(const Order& order);
    Vec3 pointAt(const Order& order) const;
    void save(const Order& order);

    Player& player_;
    Renderer renderer_;
    TripleBuffer<Shot> shots_;
    std::atomic<bool> announced_ = false;

    std::mutex mutex_;
    std::condition_variable wake_;
    Order order_;
    bool due_ = false;
    bool stop_ = false;
    std::thread thread_;
};

} // namespace ember
