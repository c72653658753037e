// The picture, and the camera that one moves through it.
#pragma once

#include "desktop/controls/screen_colour.h"
#include "desktop/view/force_lens.h"
#include "desktop/view/picture_maker.h"

#include <QPoint>
#include <QWidget>

namespace ember {

class LiveView : public QWidget {
    Q_OBJECT

  public:
    explicit LiveView(QWidget* parent = nullptr);

    /// Shows a picture; it must stay valid until the next one is shown.
    void setShot(const Shot* shot);
    void setPlaying(bool playing);
    const Camera& camera() const { return camera_; }
    void setCamera(const Camera& camera);
    void orbit(float azimuth, float height);
    /// Moves the target along the picture, in pixels.
    void pan(float right, float up);
    /// Above 1 comes closer.
    void zoom(float factor);

    /// The lens through which it is seen; the readings follow lensChanged().
    void setLens(const ForceLens& lens);

    /// The next press takes the colour of the picture under it (Escape: none) instead of turning the view.
    void pickColour(const TakeColour& take);

    /// The size of the picture to be drawn, in device pixels.
    QSize pictureSize() const;

  signals:
    void cameraChanged(const ember::Camera& camera);
    void pictureSizeChanged(QSize pixels);
    /// What the lens needs to be read; nothing: it is off.
    void fieldWanted(const std::optional<ember::FieldOrder>& order);

  protected:
    void paintEvent(QPaintEvent*) override;
    void leaveEvent(QEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QString rateText() const;
    void askForField();

    const Shot* shot_ = nullptr;
    Camera camera_;
    QPointF last_mouse_;
    TakeColour take_colour_;
    ForceLens lens_;
    std::optional<QPointF> pointer_;
    bool playing_ = false;
    double picture_interval_ms_ = 0; // smoothed
    qint64 last_shot_ns_ = 0;
    uint64_t last_step_ = 0;
};

} // namespace ember
