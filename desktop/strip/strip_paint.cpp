// How the strip looks.
#include "desktop/strip/budget_strip.h"

#include "desktop/strip/strip_parts.h"
#include "desktop/strip/track_lanes.h"
#include "desktop/theme.h"

#include <QImage>
#include <QPainter>

#include <algorithm>
#include <cmath>
#include <vector>

namespace ember {

using namespace strip;

const std::array<Part, 6>& strip::parts_of_frame() {
    static const std::array<Part, 6> list = {
        {{"births and deaths", &CostSample::births_ms, QColor(0xe8, 0xe1, 0xd3)},
         {"forces", &CostSample::forces_ms, QColor(0x8f, 0xa6, 0xc4)},
         {"collision", &CostSample::collision_ms, QColor(0xb9, 0x7a, 0x5c)},
         {"smoke", &CostSample::smoke_ms, QColor(0x9a, 0xa7, 0xa2)},
         {"breaking", &CostSample::debris_ms, QColor(0xc9, 0xb4, 0x8a)},
         {"draw", &CostSample::draw_ms, QColor(0x4d, 0x62, 0x7c)}}};
    return list;
}

namespace {

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

void BudgetStrip::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    if (!effect_) {
        return;
    }
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(theme::text_font(9.5, QFont::DemiBold));
    painter.setPen(theme::text);
    QString title =
        machine_.isEmpty() ? tr("Time and cost") : tr("Time and cost, predicted for %1").arg(machine_);
    if (held_first_) {
        title += tr(": scrolled, Ctrl+End goes along again");
    }
    painter.drawText(14, 15, title);
    paintLegend(painter);
    for (const Lane lane : shownLanes()) {
        scales_[size_t(lane)] = scale(lane);
        paintLane(painter, lane);
    }
    showAxis();
    paintEvents(painter);
    paintSpan(painter);
    paintEnd(painter);
    paintAxis(painter);
    paintGoneBackTo(painter);
    paintMoment(painter);
}

void BudgetStrip::paintAxis(QPainter& painter) const {
    const QRectF bottom = lastLaneRect();
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
            painter.drawText(QPointF(x + 3, height() - 3), QStringLiteral("%1 s").arg(second));
            painter.setPen(theme::line);
            painter.drawLine(QPointF(x, height() - axis_height), QPointF(x, height() - 3));
        }
    }
}

void BudgetStrip::paintSpan(QPainter& painter) const {
    if (!marked_) {
        return;
    }
    const QRectF lanes = laneRect(frame_lane);
    const double from = std::clamp(xOf(marked_->first), lanes.left(), lanes.right()),
                 to = std::clamp(xOf(marked_->second), lanes.left(), lanes.right());
    if (to <= from) {
        return;
    }
    const QRectF band(from, height() - axis_height, to - from, axis_height - 1);
    QColor ground = theme::ember;
    ground.setAlphaF(0.28f);
    painter.fillRect(band, ground);
    painter.setPen(QPen(theme::ember, 1));
    painter.drawLine(QPointF(from, lanes.top()), QPointF(from, height() - 1));
    painter.drawLine(QPointF(to, lanes.top()), QPointF(to, height() - 1));
    painter.setFont(theme::text_font(7.5));
    painter.setPen(theme::text);
    painter.drawText(band.adjusted(0, 0, -4, 0), Qt::AlignVCenter | Qt::AlignRight, loop_words_);
}

// Where the effect ends, if it does.
void BudgetStrip::paintEnd(QPainter& painter) const {
    const QRectF lanes = laneRect(frame_lane);
    const double x = effect_->stage.length > 0 ? xOf(double(effect_->stage.length)) : -1;
    if (x < lanes.left() || x > lanes.right()) {
        return;
    }
    painter.setPen(QPen(theme::text, 1, Qt::DashLine));
    painter.drawLine(QPointF(x, lanes.top()), QPointF(x, height() - 1));
    painter.setFont(theme::text_font(7.5));
    painter.drawText(QRectF(x + 4, height() - axis_height, 60, axis_height - 1),
                     Qt::AlignVCenter | Qt::AlignLeft, tr("end"));
}

// Ticks; with words as far as they do not run into one another.
void BudgetStrip::paintEvents(QPainter& painter) const {
    const QRectF lane = laneRect(frame_lane);
    painter.setFont(theme::text_font(8));
    const double y = lane.top() - 3;
    const auto& events = history_.events();
    for (auto first = events.begin(); first != events.end();) {
        const double x = xOf(first->time_s);
        const int wide = painter.fontMetrics().horizontalAdvance(first->words) + 34;
        auto next = std::next(first);
        for (; next != events.end() && xOf(next->time_s) < x + wide; ++next) {
        }
        const auto more = std::distance(first, next) - 1;
        if (x >= lane.left() && x <= lane.right()) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(theme::cost);
            painter.drawPolygon(QPolygonF({{x, y}, {x - 3.5, y - 6}, {x + 3.5, y - 6}}));
            for (auto other = std::next(first); other != next; ++other) {
                painter.fillRect(QRectF(xOf(other->time_s) - 0.5, y, 1.2, 3), theme::cost);
            }
            painter.setPen(theme::cost);
            if (x + 7 + wide <= lane.right()) {
                painter.drawText(QPointF(x + 7, y - 1),
                                 more > 0 ? tr("%1 +%2").arg(first->words).arg(more) : first->words);
            }
        }
        first = next;
    }
}

// The moment under the pointer.
void BudgetStrip::paintMoment(QPainter& painter) const {
    const CostSample* sample = !points_ && pointer_x_ >= left_edge ? sampleAt(pointer_x_) : nullptr;
    if (sample == nullptr) {
        return;
    }
    const QRectF top = laneRect(frame_lane);
    const double x = xOf(sample->time_s);
    painter.setPen(QPen(theme::text, 1));
    painter.drawLine(QPointF(x, top.top()), QPointF(x, lastLaneRect().bottom()));
    painter.setFont(theme::figure_font(8));
    const QString text = tr("%1 s  %2 ms  %3")
                             .arg(sample->time_s, 0, 'f', 2)
                             .arg(sample->frame_ms(), 0, 'f', 1)
                             .arg(theme::short_count(sample->particles));
    const int text_width = painter.fontMetrics().horizontalAdvance(text);
    const QRectF label(std::min(x + 3, top.right() - text_width - 6), top.top() + 1, text_width + 6, 14);
    painter.fillRect(label, theme::ground);
    painter.drawText(label, Qt::AlignCenter, text);
}

// What was played after the moment that is shown is made anew when it goes on: it is drawn fainter.
void BudgetStrip::paintGoneBackTo(QPainter& painter) const {
    const std::optional<double> moment = history_.gone_back_to();
    if (!moment) {
        return;
    }
    const QRectF first = laneRect(frame_lane), last = lastLaneRect();
    const double x = std::clamp(xOf(*moment), first.left(), first.right());
    QColor veil = theme::ground;
    veil.setAlphaF(0.6f);
    const QRectF later(x, first.top(), first.right() - x, last.bottom() - first.top());
    painter.fillRect(later, veil);
    // And what has been measured before the last edit, and not since, is of what was.
    const auto& samples = history_.samples();
    const auto is_stale = [&](const CostSample& sample) { return sample.effect != effect_; };
    const auto first_stale = std::find_if(firstSeen(), samples.end(), [&](const CostSample& sample) {
        return sample.time_s >= *moment && is_stale(sample);
    });
    if (first_stale != samples.end() && is_stale(samples.back())) {
        const double begin = std::max(xOf(first_stale->time_s), later.left());
        const double end = std::min(xOf(samples.back().time_s), later.right());
        const QRectF stale(begin, later.top(), std::max(end - begin, 0.0), later.height());
        painter.fillRect(stale, QBrush(theme::line, Qt::BDiagPattern));
        painter.setFont(theme::text_font(8));
        painter.setPen(theme::quiet);
        const QString words = tr("before the last edit");
        if (painter.fontMetrics().horizontalAdvance(words) + 16 < stale.width()) {
            painter.drawText(stale.adjusted(8, 2, 0, 0), Qt::AlignTop | Qt::AlignRight, words + "  ");
        }
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
    painter.setFont(theme::text_font(8));
    double x = width() - right_edge;
    for (auto part = parts_of_frame().rbegin(); part != parts_of_frame().rend(); ++part) {
        const QString name = tr(part->name);
        x -= painter.fontMetrics().horizontalAdvance(name);
        painter.setPen(theme::quiet);
        painter.drawText(QPointF(x, 14), name);
        x -= 13;
        painter.fillRect(QRectF(x, 7, 8, 8), part->colour);
        x -= 12;
    }
    const QString order = tr("frame, from the bottom:");
    painter.setPen(theme::quiet);
    painter.drawText(QPointF(x - painter.fontMetrics().horizontalAdvance(order), 14), order);
}

void BudgetStrip::paintLane(QPainter& painter, Lane lane) const {
    const QRectF rect = laneRect(lane);
    painter.fillRect(rect, theme::ground);
    const QRect name = nameRect(lane);
    painter.setFont(theme::text_font(isOpen(lane) ? 8.5 : 8));
    painter.setPen(isOpen(lane) ? theme::text : theme::quiet);
    const QString label = tr(lane_kinds[size_t(lane)].label);
    // Beside its field, which has the right half.
    painter.drawText(name.adjusted(4, 0, 0, 0), Qt::AlignVCenter | Qt::AlignLeft, label.section(' ', 0, 0));
    if (!isOpen(lane)) {
        painter.setFont(theme::figure_font(7.5));
        painter.drawText(name, Qt::AlignVCenter | Qt::AlignRight, theme::short_count(limit(lane)));
    }
    painter.drawImage(rect.topLeft(), lanePicture(lane));
    const double y = rect.bottom() - heightOf(lane, limit(lane)) * rect.height();
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
    const auto rows = [&](double value) { return int(std::lround(heightOf(lane, value) * pixels.height)); };
    const auto paint_column = [&](int x, double low, double high, QRgb colour) {
        const int end = pixels.height - std::min(rows(high), pixels.height);
        for (int y = pixels.height - rows(low) - 1; y >= end; --y) {
            pixels.at(x, y) = colour;
        }
    };
    for (int x = 0; x < picture.width(); ++x) {
        const CostSample* sample = columns[size_t(x)];
        if (sample == nullptr) {
            continue;
        }
        if (lane != frame_lane) {
            paint_column(x, 0, valueOf(*sample, lane), count_colour.rgb());
        } else {
            // Each part stands on the ones before it.
            double ms = 0;
            for (const Part& part : parts_of_frame()) {
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
