// The picture, and the camera that one moves through it.
#pragma once

#include "desktop/controls/screen_colour.h"
#include "desktop/view/contact_lens.h"
#include "desktop/view/force_lens.h"
#include "desktop/view/handles.h"
#include "desktop/view/heat_lens.h"
#include "desktop/view/pace.h"
#include "desktop/workbench/picture_maker.h"

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

    /// Whether the view goes with the effect's own camera, which is keyed, until it is moved by hand.
    void setFlying(bool on);
    bool isFlying() const { return is_flying_; }

    /// The lens through which it is seen; the readings follow lensChanged().
    void setLens(const ForceLens& lens);
    /// What is being read or measured for the effect, and is not in any picture or lens yet; empty: nothing.
    void setAwaited(const QString& what);
    /// Says so if a step takes more than a second, and how to end that; else empty.
    QString slowWords() const;

    /// What a lens says of that.
    QString awaitedWords() const;
    const ContactLens& contacts() const { return contacts_; }
    const HeatLens& heat() const { return heat_; }

    /// What is selected has handles while they are shown.
    void setSelection(const EffectPtr& effect, const std::string& id);
    void setHandlesShown(bool shown);
    bool handlesShown() const { return handles_shown_; }

    /// The next press takes the colour of the picture under it (Escape: none) instead of turning the view.
    void pickColour(const TakeColour& take);

    /// The next press says where the focus shall be (Escape: nowhere).
    void pickFocus();

    /// The effect's frame in the view; all of it if the effect has none.
    QRectF frameRect() const;

    /// The size of the picture to be drawn, in device pixels.
    QSize pictureSize() const;

  signals:
    void cameraChanged(const ember::Camera& camera);
    void flyingChanged(bool on);
    void pictureSizeChanged(QSize pixels);
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();
    /// An element was pressed.
    void picked(const std::string& id);
    /// A press for the focus, in shares of the view's width and height.
    void focusAsked(QPointF place);
    /// What the lens needs to be read; nothing: it is off.
    /// The line of sight that the pointer is on; nothing once it has left the picture.
    void pointed(const std::optional<ember::PointerRay>& ray);
    /// The picture was clicked, or a digit pressed over it, while it runs and a trigger listens.
    void clicked();
    void digitPressed(int digit);
    void fieldWanted(const std::optional<ember::FieldOrder>& order);

  protected:
    void paintEvent(QPaintEvent*) override;
    void leaveEvent(QEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void showEvent(QShowEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;

  private:
    QString rateText() const;
    /// What the live view has less than the saved picture; empty if there are no copies.
    QString copiesText() const;
    QString trianglesText() const;
    /// What the effect gives while it is near its limit.
    QString givesText() const;
    void paintCut(QPainter& painter) const;
    void paintSolver(QPainter& painter) const;
    void fitFrame();
    void paintFrame(QPainter& painter) const;
    void moveCamera(const Camera& camera);
    void askForField();
    std::vector<Handle> handles() const;
    void dragHandle(QPointF place, Qt::KeyboardModifiers keys);
    void endDrag();
    void pickAt(QPointF place);
    bool isHeard(TriggerWhen when) const;

    const Shot* shot_ = nullptr;
    Camera camera_;
    bool is_flying_ = false;
    QPointF last_mouse_;
    TakeColour take_colour_;
    bool takes_focus_ = false;
    ForceLens lens_;
    QString awaited_;
    ContactLens contacts_;
    HeatLens heat_;
    EffectPtr effect_;
    std::string selection_;
    bool handles_shown_ = true;
    int hovered_ = -1;           // handle under the pointer
    std::optional<Handle> held_; // while it is dragged
    EffectPtr before_;           // the drag
    QPointF pressed_;
    int gestures_ = 0;
    std::optional<QPointF> pointer_;
    bool playing_ = false;
    Pace pace_;
    uint64_t last_step_ = 0;
};

} // namespace ember
