#include "desktop/strip/budget_strip.h"

#include "core/effect/edit.h"
#include "desktop/controls/number_field.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/strip/clip_lanes.h"
#include "desktop/strip/strip_parts.h"
#include "desktop/strip/track_lanes.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <QWheelEvent>

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace ember {

using namespace strip;

namespace {

constexpr std::array all_lanes = {
    BudgetStrip::frame_lane, BudgetStrip::particles_lane, BudgetStrip::smoke_lane, BudgetStrip::pieces_lane,
    BudgetStrip::awake_lane, BudgetStrip::linger_lane,    BudgetStrip::memory_lane};

const Parameter& limit_parameter(BudgetStrip::Lane lane) {
    static const Budget budget;
    const Holder holder = {&budget, budget_parameters(), ""};
    return *holder.find(lane_kinds[size_t(lane)].limit_key);
}

bool is_of_pieces(BudgetStrip::Lane lane) {
    return lane == BudgetStrip::pieces_lane || lane == BudgetStrip::awake_lane ||
           lane == BudgetStrip::linger_lane;
}

} // namespace

BudgetStrip::BudgetStrip(QWidget* parent)
    : QWidget(parent), tracks_(new TrackLanes(this)), clips_(new ClipLanes(this)) {
    connect(tracks_, &TrackLanes::edited, this, &BudgetStrip::edited);
    connect(tracks_, &TrackLanes::gestureEnded, this, &BudgetStrip::gestureEnded);
    connect(tracks_, &TrackLanes::selected, this, &BudgetStrip::selected);
    connect(clips_, &ClipLanes::edited, this, &BudgetStrip::edited);
    connect(clips_, &ClipLanes::gestureEnded, this, &BudgetStrip::gestureEnded);
    connect(clips_, &ClipLanes::selected, this, &BudgetStrip::selected);
    connect(clips_, &ClipLanes::goTo, this, [this](double time_s) {
        emit momentPointedAt(time_s);
        emit momentPointedAt(std::nullopt); // and let go of
    });
    connect(tracks_, &TrackLanes::heightChanged, this, [this] {
        emit roomWanted(top_edge + axis_height + least_open + tracks_->wantedHeight() +
                        clips_->wantedHeight());
        placeFields();
        update();
    });
    setMouseTracking(true);
    setMinimumHeight(100);
    for (const Lane lane : all_lanes) {
        const Parameter& parameter = limit_parameter(lane);
        const bool whole = parameter.kind == ParameterKind::count;
        auto* field = new NumberField(parameter.hard_low, parameter.hard_high, whole ? 100 : 0.5, whole,
                                      QString::fromStdString(expectation_of(parameter)), this);
        field->setFixedSize(58, 20);
        field->setDecimals(2);
        field->setToolTip(tipOf(parameter));
        field->setAccessibleName(tr("%1 limit").arg(qtext(parameter.label)));
        connect(field, &NumberField::numberTyped, this,
                [this, lane](double value) { setLimit(lane, value, {}); });
        fields_[size_t(lane)] = field;
    }
}

void BudgetStrip::setOpen(Lane lane, bool open) {
    open_[size_t(lane)] = open;
    placeFields();
    update();
}

std::vector<BudgetStrip::Lane> BudgetStrip::shownLanes() const {
    const auto has = [this](auto is_one) {
        return effect_ && std::any_of(effect_->elements.begin(), effect_->elements.end(), is_one);
    };
    const bool breaks = has([](const Element& each) { return std::holds_alternative<Breakable>(each.body); });
    const bool smokes = has([](const Element& each) { return std::holds_alternative<Smoke>(each.body); });
    std::vector<Lane> lanes;
    int needed = top_edge + axis_height - lane_gap + tracksHeight() + clipsHeight();
    for (const Lane lane : all_lanes) {
        needed += (isOpen(lane) ? least_open : folded_height) + lane_gap;
        const bool is_wanted = (breaks || !is_of_pieces(lane)) && (smokes || lane != smoke_lane);
        if (is_wanted && (needed <= height() || lanes.empty())) {
            lanes.push_back(lane);
        } else {
            needed -= (isOpen(lane) ? least_open : folded_height) + lane_gap;
        }
    }
    return lanes;
}

void BudgetStrip::setEffect(const EffectPtr& effect) {
    const int clips_before = clips_->wantedHeight();
    effect_ = effect;
    for (const Lane lane : all_lanes) {
        fields_[size_t(lane)]->setNumber(limit(lane));
        scales_[size_t(lane)] = scale(lane);
    }
    tracks_->setEffect(effect);
    clips_->setEffect(effect);
    if (clips_->wantedHeight() > clips_before) {
        askForRoom();
    }
    placeFields();
    update();
}

std::optional<Why> BudgetStrip::why() const {
    return history_.gone_back_to() ? history_.why(*history_.gone_back_to()) : std::nullopt;
}

void BudgetStrip::addReadings(const Readings& readings, const std::vector<StepCost>& steps) {
    history_.add(readings, steps);
    std::vector<double> events_s;
    for (const CostEvent& happened : history_.events()) {
        events_s.push_back(happened.time_s);
    }
    axis_.now_s = readings.time_s;
    axis_.events_s = std::move(events_s);
}

double BudgetStrip::limit(Lane lane) const {
    const Budget& budget = effect_->budget;
    const std::array<double, lane_count> limits = {double(budget.frame_ms),     double(budget.particles),
                                                   double(budget.smoke_cells),  double(budget.pieces),
                                                   double(budget.awake_pieces), double(budget.linger_s),
                                                   double(budget.memory_mb)};
    return limits[size_t(lane)];
}

double BudgetStrip::valueOf(const CostSample& sample, Lane lane) const {
    const std::array<double, lane_count> values = {sample.frame_ms(), sample.particles, sample.cells,
                                                   sample.pieces,     sample.awake,     sample.linger_s,
                                                   sample.memory_mb};
    return values[size_t(lane)];
}

// Open lanes share what folded ones leave.
QRectF BudgetStrip::laneRect(Lane wanted) const {
    const std::vector<Lane> lanes = shownLanes();
    const auto open = std::count_if(lanes.begin(), lanes.end(), [this](Lane lane) { return isOpen(lane); });
    const double folded = double(lanes.size() - size_t(open)) * folded_height;
    const double space = height() - top_edge - axis_height - tracksHeight() - clipsHeight() -
                         double(lanes.size() - 1) * lane_gap - folded;
    double top = top_edge;
    for (const Lane lane : lanes) {
        const double tall = isOpen(lane) ? std::floor(space / double(open)) : folded_height;
        if (lane == wanted) {
            return {left_edge, top, double(width() - left_edge - right_edge), tall};
        }
        top += tall + lane_gap;
    }
    return {};
}

QRect BudgetStrip::nameRect(Lane lane) const {
    const QRectF rect = laneRect(lane);
    return rect.isEmpty() ? QRect() : QRect(10, int(rect.top()), left_edge - 14, int(rect.height()));
}

std::optional<BudgetStrip::Lane> BudgetStrip::laneNamedAt(QPoint place) const {
    for (const Lane lane : shownLanes()) {
        if (nameRect(lane).contains(place)) {
            return lane;
        }
    }
    return std::nullopt;
}

// As many as leave the costs some room.
int BudgetStrip::tracksHeight() const {
    const int room = height() - top_edge - axis_height - least_open;
    return std::clamp(tracks_->wantedHeight(), 0, std::max(room - clipsHeight(), 0));
}

void BudgetStrip::askForRoom() {
    emit roomWanted(top_edge + axis_height + least_open + tracks_->wantedHeight() + clips_->wantedHeight());
}

int BudgetStrip::clipsHeight() const {
    const int room = height() - top_edge - axis_height - least_open;
    return std::clamp(clips_->wantedHeight(), 0, std::max(room, 0));
}

// To all that stand on it.
void BudgetStrip::showAxis() {
    axis_.first_s = first();
    axis_.span_s = span_s_;
    axis_.width = width();
    tracks_->setAxis(axis_);
    clips_->setAxis(axis_);
}

void BudgetStrip::placeFields() {
    tracks_->setGeometry(0, height() - axis_height - clipsHeight() - tracksHeight(), width(), tracksHeight());
    clips_->setGeometry(0, height() - axis_height - clipsHeight(), width(), clipsHeight());
    const std::vector<Lane> lanes = shownLanes();
    for (const Lane lane : all_lanes) {
        const bool is_shown = isOpen(lane) && std::find(lanes.begin(), lanes.end(), lane) != lanes.end();
        NumberField* field = fields_[size_t(lane)];
        field->setVisible(is_shown);
        if (is_shown) {
            const QRectF rect = laneRect(lane);
            field->move(left_edge - 66, int(rect.top() + (rect.height() - 20) / 2));
        }
    }
}

BudgetStrip::Scale BudgetStrip::scale(Lane lane) const {
    if (dragged_ == lane) {
        return scales_[size_t(lane)]; // held
    }
    double high = 0;
    for (auto sample = firstSeen(); sample != history_.samples().end() && sample->time_s <= first() + span_s_;
         ++sample) {
        high = std::max(high, valueOf(*sample, lane));
    }
    constexpr double over_limit = 1.25;
    const double knee = limit(lane) * over_limit;
    return {knee, std::max(high, 2 * knee)};
}

double BudgetStrip::heightOf(Lane lane, double value) const {
    const auto [knee, top] = scales_[size_t(lane)];
    return value <= knee
               ? even_part * value / knee
               : even_part + (1 - even_part) * std::min(std::log(value / knee) / std::log(top / knee), 1.0);
}

double BudgetStrip::newest() const {
    return history_.samples().empty() ? 0 : history_.samples().back().time_s;
}

double BudgetStrip::firstAlong() const {
    return std::max(newest() - span_s_, 0.0);
}

double BudgetStrip::first() const {
    return held_first_.value_or(firstAlong());
}

// Where the last thing on the axis stands.
double BudgetStrip::last() const {
    double last = std::max(newest(), double(effect_->stage.length));
    for (const Track& track : effect_->tracks) {
        for (const Curve& curve : track.curves) {
            last = std::max(last, double(curve.points.back().time));
        }
    }
    return std::max({last, clips_->lastEnd(), marked_ ? marked_->second : 0});
}

void BudgetStrip::scroll(double spans) {
    const double from = first(), along = firstAlong();
    const double to = std::clamp(from + spans * span_s_, 0.0, std::max(last() - span_s_, along));
    const bool comes_along = to == along || (from < along && to > along);
    held_first_ = comes_along ? std::nullopt : std::optional(to);
    update();
}

void BudgetStrip::zoom(double times) {
    constexpr double shortest_s = 2.5;
    const double before = span_s_;
    span_s_ = std::clamp(span_s_ * times, shortest_s, CostHistory::span_s);
    if (held_first_) {
        held_first_ = std::max(*held_first_ + (before - span_s_) / 2, 0.0);
    }
    update();
}

void BudgetStrip::follow() {
    held_first_.reset();
    update();
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
    return std::clamp(first() + (x - rect.left()) / rect.width() * span_s_, first(), first() + span_s_);
}

bool BudgetStrip::isOnAxis(QPoint place) const {
    return place.y() >= height() - axis_height && place.x() >= left_edge - 6 &&
           place.x() <= width() - right_edge + 6;
}

QPoint BudgetStrip::axisPlace(double time_s) const {
    return QPointF(xOf(time_s), height() - axis_height / 2.0).toPoint();
}

// What was measured for another machine is no part of the same history.
void BudgetStrip::setMachine(const QString& name) {
    if (name != machine_) {
        machine_ = name;
        history_.clear();
        update();
    }
}

void BudgetStrip::setLoopWords(const QString& words) {
    loop_words_ = words;
    update();
}

// Where a press goes to a moment: over the costs and the axis below them.
bool BudgetStrip::isOnTimes(QPoint place) const {
    const QRectF rect = laneRect(frame_lane);
    return !history_.samples().empty() && !limitAt(place) && !isOnAxis(place) && place.y() >= rect.top() &&
           place.x() >= rect.left() && place.x() <= rect.right();
}

QPoint BudgetStrip::momentPlace(double time_s) const {
    return QPointF(xOf(time_s), laneRect(frame_lane).bottom() - 4).toPoint();
}

QPoint BudgetStrip::limitPlace(Lane lane) const {
    const QRectF rect = laneRect(lane);
    return QPointF(rect.left() + rect.width() / 2,
                   rect.bottom() - heightOf(lane, limit(lane)) * rect.height())
        .toPoint();
}

std::optional<BudgetStrip::Lane> BudgetStrip::limitAt(QPoint place) const {
    for (const Lane lane : shownLanes()) {
        const QRectF rect = laneRect(lane);
        if (isOpen(lane) && place.x() >= rect.left() && place.x() <= rect.right() &&
            std::abs(place.y() - limitPlace(lane).y()) <= 4) {
            return lane;
        }
    }
    return std::nullopt;
}

void BudgetStrip::setLimit(Lane lane, double value, const QString& gesture) {
    const Parameter& parameter = limit_parameter(lane);
    value = std::clamp(value, parameter.hard_low, parameter.hard_high);
    const Value typed = parameter.kind == ParameterKind::count ? Value(int(value)) : Value(float(value));
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
    if (isOnAxis(place)) {
        return tr(
            "Drag over the seconds to mark a part of the time; a press takes the mark away. J loops it.");
    }
    if (limitAt(place)) {
        return tr("Limit. Drag it up or down, or type it at the left.");
    }
    if (const auto lane = laneNamedAt(place)) {
        return isOpen(*lane) ? tr("Press to fold this lane.")
                             : tr("Press to open this lane, and type its limit.");
    }
    const CostSample* sample = sampleAt(place.x());
    if (sample == nullptr || place.x() < left_edge) {
        return tr("Measured costs of the last %1 seconds of the effect against their limits.").arg(span_s_) +
               tr("\nPress or drag to go back to a moment, and to see why it cost what it cost; it goes on "
                  "from there. The wheel shows more seconds or fewer, with Shift earlier or later ones.");
    }
    QString tip = tr("%1 s: %2 ms a frame").arg(sample->time_s, 0, 'f', 2).arg(sample->frame_ms(), 0, 'f', 2);
    for (const Part& part : parts_of_frame()) {
        tip += QStringLiteral("\n%1 %2 ms").arg(tr(part.name)).arg(sample->*part.ms, 0, 'f', 2);
    }
    for (const CostEvent& happened : history_.events()) {
        if (std::abs(xOf(happened.time_s) - place.x()) < 4) {
            tip += "\n" + happened.words;
        }
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
    placeFields();
}

void BudgetStrip::mousePressEvent(QMouseEvent* event) {
    const auto lane = event->button() == Qt::LeftButton ? limitAt(event->position().toPoint()) : std::nullopt;
    const auto named =
        event->button() == Qt::LeftButton ? laneNamedAt(event->position().toPoint()) : std::nullopt;
    if (named) {
        setOpen(*named, !isOpen(*named));
    } else if (event->button() == Qt::LeftButton && isOnAxis(event->position().toPoint())) {
        marks_from_ = timeAt(event->position().x());
        marked_.reset();
        update();
    } else if (lane) {
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
    if (marks_from_) {
        constexpr double step_s = 1.0 / 60, shortest_s = 0.1;
        const auto rounded = [](double time_s) { return std::round(time_s / step_s) * step_s; };
        const double to_s = timeAt(pointer_x_);
        const std::pair span(rounded(std::min(*marks_from_, to_s)), rounded(std::max(*marks_from_, to_s)));
        marked_ = span.second - span.first >= shortest_s ? std::optional(span) : std::nullopt;
        return update();
    }
    if (!dragged_) {
        const QPoint place = event->position().toPoint();
        setCursor(isOnAxis(place)      ? Qt::IBeamCursor
                  : limitAt(place)     ? Qt::SplitVCursor
                  : laneNamedAt(place) ? Qt::PointingHandCursor
                  : isOnTimes(place)   ? Qt::SizeHorCursor
                                       : Qt::ArrowCursor);
        update();
        return;
    }
    const QRectF rect = laneRect(*dragged_);
    const double share = (rect.bottom() - event->position().y()) / rect.height();
    const auto [knee, top] = scales_[size_t(*dragged_)];
    const double value = share <= even_part
                             ? share / even_part * knee
                             : knee * std::pow(top / knee, (share - even_part) / (1 - even_part));
    // To the next round step.
    const double step = std::pow(10.0, std::floor(std::log10(knee / 100)));
    setLimit(*dragged_, std::max(std::round(value / step), 1.0) * step,
             QStringLiteral("limit %1").arg(gestures_));
}

void BudgetStrip::mouseReleaseEvent(QMouseEvent*) {
    if (std::exchange(marks_from_, std::nullopt)) {
        emit spanMarked(marked_);
        update();
    }
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
    const QPoint turned = event->angleDelta();
    const int notches = turned.y() != 0 ? turned.y() : turned.x(); // some mice turn both ways
    if (notches != 0 && (turned.y() == 0 || event->modifiers() & Qt::ShiftModifier)) {
        scroll(notches > 0 ? -0.1 : 0.1);
    } else if (notches != 0) {
        zoom(notches > 0 ? 0.5 : 2.0);
    }
    event->accept();
}

void BudgetStrip::leaveEvent(QEvent*) {
    pointer_x_ = -1;
    update();
}

} // namespace ember
