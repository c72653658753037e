#include "desktop/strip/budget_strip.h"

#include "core/effect/edit.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QHelpEvent>
#include <QImage>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <QWheelEvent>

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace ember {

namespace {

constexpr int left_edge = 170;
constexpr int right_edge = 14;
constexpr int top_edge = 32;
constexpr int lane_gap = 12;
constexpr int axis_height = 18;
constexpr std::array lanes = {BudgetStrip::frame_lane, BudgetStrip::particles_lane};
constexpr std::array limit_keys = {"frame_ms", "particles"};

const Parameter& limit_parameter(BudgetStrip::Lane lane) {
    static const Budget budget;
    const Holder holder = {&budget, budget_parameters(), ""};
    return *holder.find(limit_keys[lane]);
}

// The parts of a frame from the bottom up.
struct Part {
    const char* name;
    double CostSample::*ms;
    QColor colour;
};
const std::array<Part, 6>& parts() {
    static const std::array<Part, 6> list = {
        {{"births and deaths", &CostSample::births_ms, QColor(0xe8, 0xe1, 0xd3)},
         {"forces", &CostSample::forces_ms, QColor(0x8f, 0xa6, 0xc4)},
         {"collision", &CostSample::collision_ms, QColor(0xb9, 0x7a, 0x5c)},
         {"smoke", &CostSample::smoke_ms, QColor(0x9a, 0xa7, 0xa2)},
         {"breaking", &CostSample::debris_ms, QColor(0xc9, 0xb4, 0x8a)},
         {"draw", &CostSample::draw_ms, QColor(0x4d, 0x62, 0x7c)}}};
    return list;
}

const QColor count_colour(0x7c, 0x83, 0x7f);

// An image's pixels, to be written one by one.
struct Pixels {
    QRgb* first;
    int stride; // pixels
    int height;

    QRgb& at(int x, int y) const { return first[y * stride + x]; }
};

// Tints and hatches a column in which the limit was exceeded.
void tintOver(const Pixels& pixels, int x, int spacing) {
    const QRgb over = theme::over.rgb();
    const auto mixed = [](int under, int above) { return (3 * under + above) / 4; };
    for (int y = 0; y < pixels.height; ++y) {
        QRgb& pixel = pixels.at(x, y);
        pixel = (x + y) % spacing == 0
                    ? over
                    : qRgb(mixed(qRed(pixel), qRed(over)), mixed(qGreen(pixel), qGreen(over)),
                           mixed(qBlue(pixel), qBlue(over)));
    }
}

} // namespace

BudgetStrip::BudgetStrip(QWidget* parent) : QWidget(parent) {
    setMouseTracking(true);
    setMinimumHeight(140);
    for (const Lane lane : lanes) {
        const Parameter& parameter = limit_parameter(lane);
        auto* field =
            new NumberField(parameter.hard_low, parameter.hard_high, lane == frame_lane ? 0.5 : 1000,
                            lane == particles_lane, QString::fromStdString(expectation_of(parameter)), this);
        field->setFixedSize(62, 22);
        field->setDecimals(2);
        field->setToolTip(tipOf(parameter));
        field->setAccessibleName(tr("%1 limit").arg(qtext(parameter.label)));
        connect(field, &NumberField::numberTyped, this,
                [this, lane](double value) { setLimit(lane, value, {}); });
        fields_[lane] = field;
    }
}

void BudgetStrip::setEffect(const EffectPtr& effect) {
    effect_ = effect;
    for (const Lane lane : lanes) {
        fields_[lane]->setNumber(limit(lane));
    }
    update();
}

void BudgetStrip::addReadings(const Readings& readings) {
    history_.add(readings);
}

double BudgetStrip::limit(Lane lane) const {
    return lane == frame_lane ? double(effect_->budget.frame_ms) : effect_->budget.particles;
}

double BudgetStrip::valueOf(const CostSample& sample, Lane lane) const {
    return lane == frame_lane ? sample.frame_ms() : sample.particles;
}

QRectF BudgetStrip::laneRect(Lane lane) const {
    const double space = height() - top_edge - lane_gap - axis_height;
    const double first = std::round(space * 0.6);
    const QRectF frame(left_edge, top_edge, width() - left_edge - right_edge, first);
    return lane == frame_lane ? frame
                              : QRectF(frame.left(), frame.bottom() + lane_gap, frame.width(), space - first);
}

double BudgetStrip::scale(Lane lane) const {
    if (dragged_ == lane) {
        return drag_scale_;
    }
    // Single outliers are cut off rather than flattening everything else.
    std::vector<double> values;
    for (auto sample = firstSeen(); sample != history_.samples().end(); ++sample) {
        values.push_back(valueOf(*sample, lane));
    }
    double high = 0;
    if (!values.empty()) {
        const auto at = values.begin() + std::ptrdiff_t(double(values.size() - 1) * 0.98);
        std::nth_element(values.begin(), at, values.end());
        high = *at;
    }
    return std::max(limit(lane) * 1.35, std::min(high * 1.15, limit(lane) * 5));
}

double BudgetStrip::newest() const {
    return history_.samples().empty() ? 0 : history_.samples().back().time_s;
}

double BudgetStrip::first() const {
    return std::max(newest() - span_s_, 0.0);
}

std::deque<CostSample>::const_iterator BudgetStrip::firstSeen() const {
    return std::partition_point(history_.samples().begin(), history_.samples().end(),
                                [&](const CostSample& sample) { return sample.time_s < first(); });
}

double BudgetStrip::xOf(double time_s) const {
    const QRectF rect = laneRect(frame_lane);
    return rect.left() + (time_s - first()) / span_s_ * rect.width();
}

double BudgetStrip::timeAt(double x) const {
    const QRectF rect = laneRect(frame_lane);
    return std::clamp(first() + (x - rect.left()) / rect.width() * span_s_, first(), newest());
}

// Where a press goes to a moment: over the costs and the axis below them.
bool BudgetStrip::isOnTimes(QPoint place) const {
    const QRectF rect = laneRect(frame_lane);
    return !history_.samples().empty() && !limitAt(place) && place.y() >= rect.top() &&
           place.x() >= rect.left() && place.x() <= rect.right();
}

QPoint BudgetStrip::momentPlace(double time_s) const {
    return QPointF(xOf(time_s), laneRect(particles_lane).bottom() - 4).toPoint();
}

QPoint BudgetStrip::limitPlace(Lane lane) const {
    const QRectF rect = laneRect(lane);
    return QPointF(rect.left() + rect.width() / 2, rect.bottom() - limit(lane) / scale(lane) * rect.height())
        .toPoint();
}

std::optional<BudgetStrip::Lane> BudgetStrip::limitAt(QPoint place) const {
    for (const Lane lane : lanes) {
        const QRectF rect = laneRect(lane);
        if (place.x() >= rect.left() && place.x() <= rect.right() &&
            std::abs(place.y() - limitPlace(lane).y()) <= 4) {
            return lane;
        }
    }
    return std::nullopt;
}

void BudgetStrip::setLimit(Lane lane, double value, const QString& gesture) {
    const Parameter& parameter = limit_parameter(lane);
    value = std::clamp(value, parameter.hard_low, parameter.hard_high);
    const Value typed = lane == frame_lane ? Value(float(value)) : Value(int(value));
    emit edited(with_value(*effect_, budget_id, parameter, typed), tr("set a limit"), gesture);
}

const CostSample* BudgetStrip::sampleAt(double x) const {
    const CostSample* nearest = nullptr;
    for (auto sample = firstSeen(); sample != history_.samples().end(); ++sample) {
        if (nearest == nullptr || std::abs(xOf(sample->time_s) - x) < std::abs(xOf(nearest->time_s) - x)) {
            nearest = &*sample;
        }
    }
    return nearest != nullptr && std::abs(xOf(nearest->time_s) - x) < 8 ? nearest : nullptr;
}

QString BudgetStrip::tipAt(QPoint place) const {
    if (limitAt(place)) {
        return tr("Limit. Drag it up or down, or type it at the left.");
    }
    const CostSample* sample = sampleAt(place.x());
    if (sample == nullptr || place.x() < left_edge) {
        return tr("Measured costs of the last %1 seconds of the effect against their limits.").arg(span_s_) +
               tr("\nPress or drag to go back to a moment; it goes on from there. The wheel shows more "
                  "seconds "
                  "or fewer.");
    }
    QString tip = tr("%1 s: %2 ms a frame").arg(sample->time_s, 0, 'f', 2).arg(sample->frame_ms(), 0, 'f', 2);
    for (const Part& part : parts()) {
        tip += QStringLiteral("\n%1 %2 ms").arg(tr(part.name)).arg(sample->*part.ms, 0, 'f', 2);
    }
    return tip + tr("\n%1 particles\nPress to go back to this moment").arg(sample->particles);
}

bool BudgetStrip::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        QToolTip::showText(help->globalPos(), tipAt(help->pos()), this);
        return true;
    }
    return QWidget::event(event);
}

void BudgetStrip::resizeEvent(QResizeEvent*) {
    for (const Lane lane : lanes) {
        const QRectF rect = laneRect(lane);
        fields_[lane]->move(84, int(rect.top() + (rect.height() - 22) / 2));
    }
}

void BudgetStrip::mousePressEvent(QMouseEvent* event) {
    const auto lane = event->button() == Qt::LeftButton ? limitAt(event->position().toPoint()) : std::nullopt;
    if (lane) {
        drag_scale_ = scale(*lane);
        dragged_ = lane;
        ++gestures_;
    } else if (event->button() == Qt::LeftButton && isOnTimes(event->position().toPoint())) {
        points_ = true;
        emit momentPointedAt(timeAt(event->position().x()));
    }
}

void BudgetStrip::mouseMoveEvent(QMouseEvent* event) {
    pointer_x_ = event->position().x();
    if (points_) {
        emit momentPointedAt(timeAt(pointer_x_));
        return;
    }
    if (!dragged_) {
        const QPoint place = event->position().toPoint();
        setCursor(limitAt(place) ? Qt::SplitVCursor : isOnTimes(place) ? Qt::SizeHorCursor : Qt::ArrowCursor);
        update();
        return;
    }
    const QRectF rect = laneRect(*dragged_);
    const double share = (rect.bottom() - event->position().y()) / rect.height();
    const double step = *dragged_ == frame_lane ? 0.1 : 500;
    setLimit(*dragged_, std::max(std::round(share * drag_scale_ / step), 1.0) * step,
             QStringLiteral("limit %1").arg(gestures_));
}

void BudgetStrip::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(points_, false)) {
        emit momentPointedAt(std::nullopt);
    }
    if (dragged_) {
        dragged_.reset();
        emit gestureEnded();
        update();
    }
}

void BudgetStrip::wheelEvent(QWheelEvent* event) {
    constexpr double shortest_s = 2.5;
    const int notches = event->angleDelta().y();
    if (notches != 0) {
        span_s_ = std::clamp(span_s_ * (notches > 0 ? 0.5 : 2.0), shortest_s, CostHistory::span_s);
        update();
    }
    event->accept();
}

void BudgetStrip::leaveEvent(QEvent*) {
    pointer_x_ = -1;
    update();
}

void BudgetStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    if (!effect_) {
        return;
    }
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(theme::text_font(10.5, QFont::DemiBold));
    painter.setPen(theme::text);
    painter.drawText(14, 21, tr("Budget strip"));
    paintLegend(painter);
    for (const Lane lane : lanes) {
        paintLane(painter, lane);
    }

    // The time axis, and the moment under the pointer.
    const QRectF bottom = laneRect(particles_lane);
    painter.setFont(theme::figure_font(7.5));
    const int apart = span_s_ <= 10   ? 1
                      : span_s_ <= 20 ? 2
                      : span_s_ <= 40 ? 5
                      : span_s_ <= 80 ? 10
                                      : 20; // s
    for (int second = int(std::ceil(first() / apart)) * apart; second <= first() + span_s_; second += apart) {
        const double x = xOf(second);
        if (x >= bottom.left() && x <= bottom.right() - 12) {
            painter.setPen(theme::quiet);
            painter.drawText(QPointF(x + 3, height() - 5), QStringLiteral("%1 s").arg(second));
            painter.setPen(theme::line);
            painter.drawLine(QPointF(x, bottom.bottom()), QPointF(x, height() - 4));
        }
    }
    paintGoneBackTo(painter);
    if (const CostSample* sample = !points_ && pointer_x_ >= left_edge ? sampleAt(pointer_x_) : nullptr) {
        const double x = xOf(sample->time_s);
        painter.setPen(QPen(theme::text, 1));
        painter.drawLine(QPointF(x, top_edge), QPointF(x, bottom.bottom()));
        painter.setFont(theme::figure_font(8));
        const QString text = tr("%1 s  %2 ms  %3")
                                 .arg(sample->time_s, 0, 'f', 2)
                                 .arg(sample->frame_ms(), 0, 'f', 1)
                                 .arg(theme::short_count(sample->particles));
        const int text_width = painter.fontMetrics().horizontalAdvance(text);
        painter.drawText(QPointF(std::min(x + 5, bottom.right() - text_width), top_edge + 12), text);
    }
}

// What was played after the moment that is shown is made anew when it goes on: it is drawn fainter.
void BudgetStrip::paintGoneBackTo(QPainter& painter) const {
    const std::optional<double> moment = history_.gone_back_to();
    if (!moment) {
        return;
    }
    const QRectF first = laneRect(frame_lane), last = laneRect(particles_lane);
    const double x = std::clamp(xOf(*moment), first.left(), first.right());
    QColor veil = theme::ground;
    veil.setAlphaF(0.6f);
    for (const QRectF& lane : {first, last}) {
        painter.fillRect(QRectF(x, lane.top(), lane.right() - x, lane.height()), veil);
    }
    painter.setPen(QPen(theme::text, 2));
    painter.drawLine(QPointF(x, first.top()), QPointF(x, last.bottom()));
    painter.setFont(theme::figure_font(8));
    const QString text = tr("%1 s").arg(*moment, 0, 'f', 2);
    const int text_width = painter.fontMetrics().horizontalAdvance(text);
    const QRectF label(std::clamp(x - text_width / 2.0 - 4, first.left(), first.right() - text_width - 8),
                       last.bottom() - 15, text_width + 8, 15);
    painter.fillRect(label, theme::text);
    painter.setPen(theme::ground);
    painter.drawText(label, Qt::AlignCenter, text);
}

void BudgetStrip::paintLegend(QPainter& painter) const {
    painter.setFont(theme::text_font(8.5));
    double x = width() - right_edge;
    for (auto part = parts().rbegin(); part != parts().rend(); ++part) {
        const QString name = tr(part->name);
        x -= painter.fontMetrics().horizontalAdvance(name);
        painter.setPen(theme::quiet);
        painter.drawText(QPointF(x, 20), name);
        x -= 15;
        painter.fillRect(QRectF(x, 12, 10, 9), part->colour);
        x -= 14;
    }
    const QString order = tr("Frame, from the bottom:");
    painter.setPen(theme::quiet);
    painter.drawText(QPointF(x - painter.fontMetrics().horizontalAdvance(order), 20), order);
}

void BudgetStrip::paintLane(QPainter& painter, Lane lane) const {
    const QRectF rect = laneRect(lane);
    painter.fillRect(rect, theme::ground);
    painter.setFont(theme::text_font(9));
    painter.setPen(theme::text);
    painter.drawText(QRectF(14, rect.top(), 66, rect.height()), Qt::AlignVCenter | Qt::AlignLeft,
                     lane == frame_lane ? tr("Frame ms") : tr("Particles"));

    painter.drawImage(rect.topLeft(), lanePicture(lane));

    const double y = rect.bottom() - limit(lane) / scale(lane) * rect.height();
    painter.setPen(QPen(theme::close, dragged_ == lane ? 2 : 1.2, Qt::DashLine));
    painter.drawLine(QPointF(rect.left(), y), QPointF(rect.right(), y));
}

// Written pixel by pixel: as polygons, ten seconds of samples cost more than the effect itself.
QImage BudgetStrip::lanePicture(Lane lane) const {
    const QRectF rect = laneRect(lane);
    const double ratio = devicePixelRatioF();
    QImage picture((rect.size() * ratio).toSize().expandedTo({1, 1}), QImage::Format_RGB32);
    picture.setDevicePixelRatio(ratio);
    picture.fill(theme::ground);

    // Every column shows the highest sample that falls into it, so that no peak is lost.
    std::vector<const CostSample*> columns(size_t(picture.width()), nullptr);
    double from = rect.left();
    for (auto seen = firstSeen(); seen != history_.samples().end(); ++seen) {
        const CostSample& sample = *seen;
        const double to = xOf(sample.time_s);
        const int last = std::min(int((to - rect.left()) * ratio), picture.width() - 1);
        for (int x = std::max(int((from - rect.left()) * ratio), 0); x <= last; ++x) {
            const CostSample*& shown = columns[size_t(x)];
            shown = shown == nullptr || valueOf(sample, lane) > valueOf(*shown, lane) ? &sample : shown;
        }
        from = to;
    }

    const Pixels pixels = {reinterpret_cast<QRgb*>(picture.bits()), int(picture.bytesPerLine()) / 4,
                           picture.height()};
    const int hatch = int(8 * ratio);
    const double pixels_per_unit = pixels.height / scale(lane);
    const auto paint_column = [&](int x, double low, double high, QRgb colour) {
        const int end = pixels.height - std::min(int(std::lround(high * pixels_per_unit)), pixels.height);
        for (int y = pixels.height - int(std::lround(low * pixels_per_unit)) - 1; y >= end; --y) {
            pixels.at(x, y) = colour;
        }
    };
    for (int x = 0; x < picture.width(); ++x) {
        const CostSample* sample = columns[size_t(x)];
        if (sample == nullptr) {
            continue;
        }
        if (lane == particles_lane) {
            paint_column(x, 0, sample->particles, count_colour.rgb());
        } else {
            // Each part stands on the ones before it.
            double ms = 0;
            for (const Part& part : parts()) {
                paint_column(x, ms, ms + sample->*part.ms, part.colour.rgb());
                ms += sample->*part.ms;
            }
        }
        if (valueOf(*sample, lane) > limit(lane)) {
            tintOver(pixels, x, hatch);
        }
    }
    return picture;
}

} // namespace ember
