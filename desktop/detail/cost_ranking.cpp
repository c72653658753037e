#include "desktop/detail/cost_ranking.h"

#include "desktop/theme.h"

#include <QMouseEvent>
#include <QPainter>

#include <algorithm>

namespace ember {

namespace {

constexpr int heading_height = 34, line_height = 30, switch_size = 18;
constexpr double least_ms = 0.005;

} // namespace

CostRanking::CostRanking(QWidget* parent) : QWidget(parent) {
    setAccessibleName(tr("What the frame's time goes to"));
    setToolTip(tr("The dearest first, of the frame limit: bright is the step, dim the picture. Press a name "
                  "to select it, the circle to mute it."));
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
}

void CostRanking::setCosts(const EffectPtr& effect, const Readings& readings, const SmoothedCosts& costs) {
    limit_ms_ = double(effect->budget.frame_ms);
    std::vector<Line> lines;
    for (const Element& element : effect->elements) {
        const SmoothedCosts::Cost cost = costs.of(element.id);
        if (element.muted || cost.sum() >= least_ms) {
            lines.push_back({element.id, QString::fromStdString(element.name), cost, element.muted});
        }
    }
    const DrawMeters& draw = readings.draw;
    lines.push_back({{}, tr("Stage"), {0, draw.stage_ms - draw.lamps_ms + draw.focus_ms}});
    lines.push_back({{}, tr("Bloom, glare and tones"), {0, draw.finishing_ms}});
    // The order stays while the pointer is on its way to a switch.
    const auto place_of = [&](const Line& line) {
        const auto found = std::find_if(lines_.begin(), lines_.end(), [&](const Line& other) {
            return other.id == line.id && other.name == line.name;
        });
        return found - lines_.begin();
    };
    const bool keeps = underMouse();
    std::stable_sort(lines.begin(), lines.end(), [&](const Line& a, const Line& b) {
        return keeps ? place_of(a) < place_of(b) : a.cost.sum() > b.cost.sum();
    });
    const bool is_other_size = lines.size() != lines_.size();
    lines_ = std::move(lines);
    if (is_other_size) {
        setFixedHeight(sizeHint().height());
    }
    update();
}

QSize CostRanking::sizeHint() const {
    return {200, heading_height + int(lines_.size()) * line_height + 4};
}

QRect CostRanking::rectOf(size_t line) const {
    return {0, heading_height + int(line) * line_height, width(), line_height};
}

QRect CostRanking::switchIn(const QRect& line) {
    return {line.right() - switch_size - 2, line.top() + 1, switch_size, switch_size};
}

QRect CostRanking::rectOf(const std::string& id) const {
    for (size_t i = 0; i < lines_.size(); ++i) {
        if (lines_[i].id == id) {
            return rectOf(i);
        }
    }
    return {};
}

QRect CostRanking::muteRect(const std::string& id) const {
    return switchIn(rectOf(id));
}

void CostRanking::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setFont(theme::text_font(7.5, QFont::Medium));
    painter.setPen(theme::quiet);
    painter.drawText(QRect(6, 10, width() - 6, heading_height - 12), Qt::AlignVCenter | Qt::AlignLeft,
                     tr("What it goes to").toUpper());
    painter.setFont(theme::text_font(8));
    painter.drawText(QRect(0, 10, width() - switch_size - 8, heading_height - 12),
                     Qt::AlignVCenter | Qt::AlignRight, tr("step + picture, ms"));
    QColor pale = theme::cost;
    pale.setAlphaF(0.45f);
    for (size_t i = 0; i < lines_.size(); ++i) {
        const Line& line = lines_[i];
        const QRect rect = rectOf(i);
        const int right = rect.right() - switch_size - 8;
        const QString figures = line.is_muted ? tr("muted")
                                              : QStringLiteral("%1 + %2   %3 %")
                                                    .arg(line.cost.step_ms, 0, 'f', 2)
                                                    .arg(line.cost.picture_ms, 0, 'f', 2)
                                                    .arg(100 * line.cost.sum() / limit_ms_, 0, 'f', 0);
        painter.setFont(theme::figure_font(8));
        painter.setPen(line.is_muted ? theme::quiet : theme::cost);
        painter.drawText(QRect(6, rect.top(), right - 6, 20), Qt::AlignVCenter | Qt::AlignRight, figures);
        const int room = right - 14 - painter.fontMetrics().horizontalAdvance(figures);
        painter.setFont(theme::text_font(9));
        painter.setPen(line.id.empty() || line.is_muted ? theme::quiet : theme::text);
        painter.drawText(QRect(6, rect.top(), room, 20), Qt::AlignVCenter | Qt::AlignLeft,
                         painter.fontMetrics().elidedText(line.name, Qt::ElideRight, room));
        const QRectF whole(6, rect.top() + 22, right - 6, 4);
        painter.fillRect(whole, theme::ground);
        const double step = std::min(line.cost.step_ms / limit_ms_, 1.0);
        const double both = std::min(line.cost.sum() / limit_ms_, 1.0);
        painter.fillRect(QRectF(whole.left(), whole.top(), whole.width() * step, 4), theme::cost);
        painter.fillRect(
            QRectF(whole.left() + whole.width() * step, whole.top(), whole.width() * (both - step), 4), pale);
        if (!line.id.empty()) {
            theme::paint_mute(painter, switchIn(rect), line.is_muted);
        }
    }
}

void CostRanking::mousePressEvent(QMouseEvent* event) {
    for (size_t i = 0; i < lines_.size(); ++i) {
        const Line line = lines_[i];
        if (line.id.empty() || !rectOf(i).contains(event->position().toPoint())) {
            continue;
        }
        return switchIn(rectOf(i)).contains(event->position().toPoint()) ? emit switched(line.id)
                                                                         : emit selected(line.id);
    }
}

} // namespace ember
