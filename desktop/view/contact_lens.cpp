#include "desktop/view/contact_lens.h"

#include "desktop/theme.h"
#include "desktop/view/colour_scale.h"
#include "desktop/view/force_lens.h"

#include <QCoreApplication>
#include <QPainter>

#include <algorithm>
#include <array>
#include <cmath>

namespace ember {

namespace {

constexpr uint64_t shown_steps = 24;
constexpr size_t most_marks = 5000;
constexpr double steps_per_s = 60;

} // namespace

void ContactLens::add(uint64_t step, const std::vector<FrameContact>& contacts) {
    if (!seen_.empty() && step < seen_.back().step) {
        seen_.clear(); // started again
    }
    if (seen_.empty() || step > seen_.back().step) {
        seen_.push_back({step, contacts});
    }
    while (seen_.front().step + shown_steps <= seen_.back().step) {
        seen_.pop_front();
    }
}

QString ContactLens::figures() const {
    size_t count = 0;
    double sum = 0;
    float hardest = 0;
    for (const Seen& seen : seen_) {
        for (const FrameContact& contact : seen.contacts) {
            ++count;
            sum += double(contact.speed);
            hardest = std::max(hardest, contact.speed);
        }
    }
    if (count == 0) {
        return QCoreApplication::translate("ContactLens", "nothing is hit");
    }
    return QCoreApplication::translate("ContactLens", "%1 contacts a second, hardest %2 m/s, mean %3 m/s")
        .arg(theme::short_count(double(count) * steps_per_s / double(seen_.size())))
        .arg(double(hardest), 0, 'f', 1)
        .arg(sum / double(count), 0, 'f', 1);
}

void ContactLens::paint(QPainter& painter, const Camera& camera, QSize size) const {
    // A veil, so that points of any brightness stand out.
    QColor veil = theme::ground;
    veil.setAlpha(120);
    painter.fillRect(QRect(QPoint(), size), veil);

    std::vector<float> speeds;
    for (const Seen& seen : seen_) {
        for (const FrameContact& contact : seen.contacts) {
            speeds.push_back(contact.speed);
        }
    }
    paint_figures(painter, size, figures());
    if (speeds.empty()) {
        return;
    }
    const size_t every = speeds.size() / most_marks + 1;
    const auto hard = speeds.begin() + std::ptrdiff_t(double(speeds.size() - 1) * 0.95);
    std::nth_element(speeds.begin(), hard, speeds.end());
    const float strong = std::max(*hard, 1e-3f);

    // By hardness; the old ones are smaller.
    constexpr size_t levels = 8, ages = 3;
    std::array<std::array<QList<QRect>, ages>, levels> marks;
    size_t number = 0;
    for (const Seen& seen : seen_) {
        const size_t age = size_t(seen_.back().step - seen.step) * ages / shown_steps;
        for (const FrameContact& contact : seen.contacts) {
            const auto pixel =
                number++ % every == 0 ? on_picture(contact.position, camera, size) : std::nullopt;
            if (pixel) {
                const float share = std::min(contact.speed / strong, 1.0f);
                const auto level = size_t(share * (levels - 1) + 0.5f);
                const int width = std::max(
                    int(std::lround((2 + 2 * double(level) / levels) * (1 - 0.25 * double(age)))), 1);
                marks[level][age] << QRect(pixel->toPoint() - QPoint(width / 2, width / 2),
                                           QSize(width, width));
            }
        }
    }
    // Plain squares: thousands of them are drawn with every picture.
    painter.setRenderHint(QPainter::Antialiasing, false);
    painter.setPen(Qt::NoPen);
    for (size_t level = 0; level < levels; ++level) {
        painter.setBrush(scale_colour(float(level) / (levels - 1)));
        for (size_t age = ages; age-- > 0;) {
            painter.drawRects(marks[level][age]);
        }
    }
    paint_scale(painter, size, QStringLiteral("%1 m/s").arg(double(strong), 0, 'g', 3));
}

} // namespace ember
