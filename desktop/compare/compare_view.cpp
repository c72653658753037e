#include "desktop/compare/compare_view.h"

#include "desktop/controls/pictures.h"
#include "desktop/theme.h"
#include "desktop/view/pointer_ray.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

// Of a picture that is only painted.
QImage lent(const Picture& picture) {
    return QImage(reinterpret_cast<const uchar*>(picture.pixels.data()), picture.width, picture.height,
                  picture.width * 4, QImage::Format_RGB32);
}

} // namespace

CompareView::CompareView(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setMinimumSize(320, 180);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setAccessibleName(tr("Both versions"));
    setToolTip(
        tr("Drag the line to see more of one or the other (left and right arrows too), drag elsewhere to "
           "orbit, wheel to zoom. The pointer and clicks reach both versions."));
}

void CompareView::setShot(const PairShot* shot) {
    shot_ = shot;
    update();
}

void CompareView::setMode(Mode mode) {
    mode_ = mode;
    emit pictureSizeChanged(pictureSize());
    update();
}

void CompareView::setCamera(const Camera& camera) {
    camera_ = camera;
    emit cameraChanged(camera);
}

void CompareView::setNames(const QString& a, const QString& b) {
    names_[0] = a;
    names_[1] = b;
    update();
}

QRect CompareView::pictureRect(int side) const {
    if (mode_ != Mode::beside) {
        return rect();
    }
    const int half = width() / 2;
    return side == 0 ? QRect(0, 0, half - 1, height()) : QRect(half + 1, 0, width() - half - 1, height());
}

QSize CompareView::pictureSize() const {
    return (QSizeF(pictureRect(0).size()) * devicePixelRatioF()).toSize();
}

bool CompareView::isOnDivision(QPointF place) const {
    return mode_ == Mode::divided && std::abs(place.x() - division_ * width()) < 7;
}

void CompareView::setDivision(double share) {
    division_ = std::clamp(share, 0.0, 1.0);
    update();
}

std::optional<PointerRay> CompareView::rayAt(QPointF place) const {
    for (int side = 0; side < 2; ++side) {
        if (const QRect picture = pictureRect(side); picture.contains(place.toPoint())) {
            return ray_through(place - picture.topLeft(), camera_, picture.size());
        }
    }
    return std::nullopt;
}

void CompareView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), theme::ground);
    if (shot_ == nullptr || shot_->sides[0].picture.width == 0) {
        return;
    }
    const QImage a = lent(shot_->sides[0].picture), b = lent(shot_->sides[1].picture);
    painter.setRenderHint(QPainter::SmoothPixmapTransform, a.size() != pictureSize());
    switch (mode_) {
    case Mode::divided: {
        const int x = int(std::lround(division_ * width()));
        painter.drawImage(rect(), a);
        painter.setClipRect(QRect(x, 0, width() - x, height()));
        painter.drawImage(rect(), b);
        painter.setClipping(false);
        painter.fillRect(QRect(x - 1, 0, 3, height()), QColor(0, 0, 0, 170));
        painter.fillRect(QRect(x, 0, 1, height()), theme::text);
        break;
    }
    case Mode::beside:
        painter.drawImage(pictureRect(0), a);
        painter.drawImage(pictureRect(1), b);
        break;
    case Mode::difference:
        painter.drawImage(rect(), difference_of(a, b));
        break;
    }
    painter.setFont(theme::text_font(9.5, QFont::DemiBold));
    const auto name = [&](const QString& text, QRect room, int flags) {
        const QString shown = painter.fontMetrics().elidedText(text, Qt::ElideRight, room.width());
        painter.setPen(QColor(0, 0, 0, 190));
        painter.drawText(room.translated(1, 1), flags, shown);
        painter.setPen(theme::text);
        painter.drawText(room, flags, shown);
    };
    if (mode_ == Mode::difference) {
        return name(tr("A minus B, four times over"), rect().adjusted(12, 8, -12, -8),
                    Qt::AlignTop | Qt::AlignLeft);
    }
    const int half = width() / 2;
    name(tr("A  %1").arg(names_[0]), QRect(12, 8, half - 24, 20), Qt::AlignTop | Qt::AlignLeft);
    name(tr("B  %1").arg(names_[1]), QRect(half + 12, 8, half - 24, 20), Qt::AlignTop | Qt::AlignRight);
}

void CompareView::resizeEvent(QResizeEvent*) {
    emit pictureSizeChanged(pictureSize());
}

void CompareView::mousePressEvent(QMouseEvent* event) {
    last_mouse_ = pressed_ = event->position();
    drags_ = event->button() == Qt::LeftButton && isOnDivision(event->position());
}

void CompareView::mouseMoveEvent(QMouseEvent* event) {
    constexpr float degrees_per_pixel = 0.35f;
    const QPointF way = event->position() - last_mouse_;
    last_mouse_ = event->position();
    if (drags_) {
        return setDivision(event->position().x() / width());
    }
    setCursor(isOnDivision(event->position()) ? Qt::SplitHCursor : Qt::ArrowCursor);
    emit pointed(rayAt(event->position()));
    if (event->buttons() & Qt::LeftButton) {
        camera_.azimuth = std::remainder(camera_.azimuth - float(way.x()) * degrees_per_pixel, 360.0f);
        camera_.height = std::clamp(camera_.height + float(way.y()) * degrees_per_pixel, -89.0f, 89.0f);
        emit cameraChanged(camera_);
    }
}

void CompareView::mouseReleaseEvent(QMouseEvent* event) {
    const bool has_moved = (event->position() - pressed_).manhattanLength() >= 4;
    if (!std::exchange(drags_, false) && !has_moved && event->button() == Qt::LeftButton) {
        emit pointed(rayAt(event->position()));
        emit clicked();
    }
}

void CompareView::wheelEvent(QWheelEvent* event) {
    camera_.distance = std::clamp(camera_.distance * std::pow(1.1f, -float(event->angleDelta().y()) / 120.0f),
                                  0.05f, 1000.0f);
    emit cameraChanged(camera_);
    event->accept();
}

void CompareView::keyPressEvent(QKeyEvent* event) {
    constexpr double part = 0.02;
    switch (event->key()) {
    case Qt::Key_Left:
        return setDivision(division_ - part);
    case Qt::Key_Right:
        return setDivision(division_ + part);
    default:
        QWidget::keyPressEvent(event);
    }
}

void CompareView::leaveEvent(QEvent*) {
    emit pointed(std::nullopt);
}

} // namespace ember
