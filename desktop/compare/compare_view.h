// The pictures of two versions: divided by a line that can be dragged, side by side, or one minus the other.
#pragma once

#include "desktop/workbench/pair.h"

#include <QWidget>

namespace ember {

class CompareView : public QWidget {
    Q_OBJECT

  public:
    enum class Mode { divided, beside, difference };

    explicit CompareView(QWidget* parent = nullptr);

    /// Is kept by reference.
    void setShot(const PairShot* shot);
    void setMode(Mode mode);
    Mode mode() const { return mode_; }
    void setCamera(const Camera& camera);
    void setNames(const QString& a, const QString& b);
    /// Of each picture, in pixels of the screen.
    QSize pictureSize() const;
    /// Of the line, 0 at the left.
    double division() const { return division_; }

  signals:
    void pictureSizeChanged(QSize pixels);
    void cameraChanged(const ember::Camera& camera);
    void pointed(const std::optional<ember::PointerRay>& ray);
    void clicked();

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void leaveEvent(QEvent*) override;

  private:
    /// Where the picture of a side is shown; both at the same place unless they stand side by side.
    QRect pictureRect(int side) const;
    bool isOnDivision(QPointF place) const;
    std::optional<PointerRay> rayAt(QPointF place) const;
    void setDivision(double share);

    const PairShot* shot_ = nullptr;
    Mode mode_ = Mode::divided;
    Camera camera_;
    QString names_[2];
    double division_ = 0.5;
    bool drags_ = false;
    QPointF last_mouse_, pressed_;
};

} // namespace ember
