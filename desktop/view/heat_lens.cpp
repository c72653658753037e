#include "desktop/view/heat_lens.h"

#include "desktop/view/colour_scale.h"

#include <QCoreApplication>
#include <QImage>
#include <QPainter>

#include <algorithm>
#include <numeric>

namespace ember {

void HeatLens::add(const HeatMap& heat, double frame_ms) {
    constexpr float share = 0.06f; // of the newest
    if (mean_.across != heat.across || mean_.down != heat.down) {
        mean_ = heat;
        frame_ms_ = frame_ms;
    }
    frame_ms_ += double(share) * (frame_ms - frame_ms_);
    for (size_t i = 0; i < heat.ms.size(); ++i) {
        mean_.ms[i] += share * (heat.ms[i] - mean_.ms[i]);
    }
}

void HeatLens::paint(QPainter& painter, QSize size) const {
    const HeatMap& heat = mean_;
    if (heat.ms.empty()) {
        return;
    }
    const float hottest = std::max(*std::max_element(heat.ms.begin(), heat.ms.end()), 1e-6f);
    const float sum = std::accumulate(heat.ms.begin(), heat.ms.end(), 0.0f);
    QImage image(heat.across, heat.down, QImage::Format_ARGB32_Premultiplied);
    for (int y = 0; y < heat.down; ++y) {
        for (int x = 0; x < heat.across; ++x) {
            const float share = heat.ms[size_t(y) * size_t(heat.across) + size_t(x)] / hottest;
            QColor colour = scale_colour(share);
            colour.setAlphaF(0.45f + 0.35f * share);
            image.setPixel(x, y, qPremultiply(colour.rgba()));
        }
    }
    painter.save();
    painter.setClipRect(QRect(QPoint(), size));
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    const double ratio = painter.device()->devicePixelRatioF();
    painter.drawImage(
        QRectF(0, 0, heat.across * heat.tile_width / ratio, heat.down * heat.tile_height / ratio), image);
    painter.restore();
    paint_figures(painter, size,
                  QCoreApplication::translate("HeatLens", "%1 of %2 ms are seen here")
                      .arg(double(sum), 0, 'f', 1)
                      .arg(frame_ms_, 0, 'f', 1));
    paint_scale(painter, size,
                QCoreApplication::translate("HeatLens", "%1 ms a tile").arg(double(hottest), 0, 'g', 2));
}

} // namespace ember
