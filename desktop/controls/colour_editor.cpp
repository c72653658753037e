#include "desktop/controls/colour_editor.h"

#include "desktop/controls/number_field.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/theme.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr double margin = 5; // so that the mark is whole at the rim
constexpr int most_late = 10;
constexpr double late_size = 14, late_gap = 4;
const QString late_key = QStringLiteral("late_tints");

} // namespace

TintField::TintField(QWidget* parent) : QWidget(parent) {
    setFocusPolicy(Qt::StrongFocus);
    setFixedHeight(58);
    setCursor(Qt::CrossCursor);
    setAccessibleName(tr("Tint"));
    setToolTip(tr("Hue from left to right, pure above, pale below. Arrows move by a hundredth, with Shift by "
                  "ten; Escape while dragging takes it back."));
}

void TintField::setTint(const QColor& tint) {
    if (dragging_) {
        return;
    }
    purity_ = double(tint.hsvSaturationF());
    hue_ = purity_ > 0 ? double(tint.hsvHueF()) : hue_;
    update();
}

QPointF TintField::placeOf(double hue, double purity) const {
    return {margin + hue * (width() - 2 * margin), margin + (1 - purity) * (height() - 2 * margin)};
}

void TintField::choose(double hue, double purity, bool continues) {
    hue_ = std::clamp(hue, 0.0, 1.0);
    purity_ = std::clamp(purity, 0.0, 1.0);
    update();
    emit chosen(tint(), continues);
}

void TintField::chooseAt(QPointF place) {
    choose((place.x() - margin) / (width() - 2 * margin), 1 - (place.y() - margin) / (height() - 2 * margin),
           true);
}

void TintField::mousePressEvent(QMouseEvent* event) {
    if (event->button() == Qt::LeftButton) {
        hue_before_ = hue_;
        purity_before_ = purity_;
        dragging_ = true;
        chooseAt(event->position());
    }
}

void TintField::mouseMoveEvent(QMouseEvent* event) {
    if (dragging_) {
        chooseAt(event->position());
    }
}

void TintField::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(dragging_, false)) {
        emit gestureEnded();
    }
}

void TintField::keyPressEvent(QKeyEvent* event) {
    const double step = event->modifiers() & Qt::ShiftModifier ? 0.1 : 0.01;
    switch (event->key()) {
    case Qt::Key_Escape:
        if (std::exchange(dragging_, false)) {
            choose(hue_before_, purity_before_, true);
            return emit gestureEnded();
        }
        return QWidget::keyPressEvent(event);
    case Qt::Key_Left:
        return choose(hue_ - step, purity_, false);
    case Qt::Key_Right:
        return choose(hue_ + step, purity_, false);
    case Qt::Key_Up:
        return choose(hue_, purity_ + step, false);
    case Qt::Key_Down:
        return choose(hue_, purity_ - step, false);
    default:
        QWidget::keyPressEvent(event);
    }
}

void TintField::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF inside = QRectF(rect()).adjusted(margin, margin, -margin, -margin);
    const QSize size = inside.size().toSize();
    if (field_.size() != size) {
        field_ = QImage(size, QImage::Format_RGB32);
        for (int y = 0; y < size.height(); ++y) {
            for (int x = 0; x < size.width(); ++x) {
                field_.setPixelColor(
                    x, y,
                    QColor::fromHsvF(float(x) / float(size.width()), 1 - float(y) / float(size.height()), 1));
            }
        }
    }
    painter.setOpacity(isEnabled() ? 1 : 0.3);
    painter.drawImage(inside, field_);
    const QPointF place = placeOf(hue_, purity_);
    painter.setBrush(tint());
    painter.setPen(QPen(theme::ground, 3));
    painter.drawEllipse(place, 4, 4);
    painter.setPen(QPen(hasFocus() ? theme::ember : theme::text, 1.2));
    painter.drawEllipse(place, 4, 4);
}

LateTints::LateTints(QWidget* parent) : QWidget(parent) {
    setFixedHeight(16);
    setAccessibleName(tr("Tints chosen lately"));
    setToolTip(tr("What was chosen lately, the newest first; a press takes it."));
}

void LateTints::add(const QColor& tint) {
    QSettings settings;
    QStringList late = settings.value(late_key).toStringList();
    late.removeAll(tint.name());
    late.prepend(tint.name());
    settings.setValue(late_key, late.mid(0, most_late));
}

QRectF LateTints::rectOf(int index) const {
    return {index * (late_size + late_gap), 1, late_size, late_size};
}

void LateTints::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QStringList late = QSettings().value(late_key).toStringList();
    for (int i = 0; i < late.size() && rectOf(i).right() <= width(); ++i) {
        painter.setPen(QPen(theme::line, 1));
        painter.setBrush(QColor(late[i]));
        painter.drawRoundedRect(rectOf(i).adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
    }
}

void LateTints::mousePressEvent(QMouseEvent* event) {
    const QStringList late = QSettings().value(late_key).toStringList();
    for (int i = 0; i < late.size(); ++i) {
        if (rectOf(i).contains(event->position())) {
            return emit taken(QColor(late[i]));
        }
    }
}

ColourEditor::ColourEditor(QWidget* parent)
    : QWidget(parent), field_(new TintField(this)), late_(new LateTints(this)),
      strength_(
          new NumberField(0, 1000, 0.05, false, tr("A strength from 0 to 1000; above 1 it glows."), this)),
      pick_(new QPushButton(tr("Pick"), this)) {
    pick_->setToolTip(tr("Takes the tint from the picture: press here, then anywhere in the live view."));
    pick_->setFixedHeight(22);
    strength_->setFixedSize(48, 22);
    strength_->setAccessibleName(tr("strength"));
    strength_->setToolTip(tr("Light of the brightest of red, green and blue; above 1 it glows."));
    auto* label = new QLabel(tr("strength"), this);
    label->setFont(theme::text_font(8.5));
    label->setProperty("ink", "quiet");
    auto* line = new QHBoxLayout;
    line->setSpacing(4);
    line->addWidget(label);
    line->addWidget(strength_);
    line->addWidget(pick_);
    line->addWidget(late_, 1);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 2);
    layout->setSpacing(3);
    layout->addWidget(field_);
    layout->addLayout(line);

    connect(field_, &TintField::chosen, this, [this](const QColor&, bool continues) { handIn(continues); });
    connect(field_, &TintField::gestureEnded, this, [this] {
        LateTints::add(field_->tint());
        late_->update();
        emit gestureEnded();
    });
    connect(late_, &LateTints::taken, this, [this](const QColor& tint) {
        field_->setTint(tint);
        handIn(false);
    });
    connect(strength_, &NumberField::numberTyped, this, [this] { handIn(false); });
    connect(pick_, &QPushButton::clicked, this, &ColourEditor::pickRequested);
}

void ColourEditor::setColour(const Colour& colour) {
    colour_ = colour;
    strength_->setNumber(double(strength_of(colour)));
    if (strength_of(colour) > 0) { // black says nothing about its tint
        field_->setTint(screen_colour(tint_of(colour)));
    }
}

void ColourEditor::takeTint(const Colour& colour) {
    const QColor tint = screen_colour(tint_of(colour));
    field_->setTint(tint);
    LateTints::add(tint);
    late_->update();
    handIn(false);
}

void ColourEditor::handIn(bool continues) {
    const Colour tint = linear_colour(field_->tint());
    const auto strength = float(strength_->number());
    colour_ = {tint.red * strength, tint.green * strength, tint.blue * strength, colour_.alpha};
    emit edited(colour_, continues);
}

} // namespace ember
