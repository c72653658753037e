#include "desktop/view/cut_lens.h"

#include "desktop/theme.h"
#include "desktop/workbench/readings.h"

#include <QCoreApplication>
#include <QPainter>

#include <algorithm>

namespace ember {

namespace {

QString said(const char* text) {
    return QCoreApplication::translate("CutLens", text);
}

// A volume in the unit that suits it.
QString volume_text(float cubic_metres) {
    const double litres = double(cubic_metres) * 1000;
    return litres < 0.1 ? said("%1 cm\u00b3").arg(litres * 1000, 0, 'g', 2)
                        : said("%1 l").arg(litres, 0, 'g', 3);
}

} // namespace

void paint_cut(QPainter& painter, QSize size, const QString& name, const CutFacts& cut, double draw_ms) {
    painter.save();
    constexpr int wide = 292, high = 118, margin = 14;
    const QRect box(margin, size.height() - high - margin, wide, high);
    QColor back = theme::ground;
    back.setAlpha(215);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setPen(Qt::NoPen);
    painter.setBrush(back);
    painter.drawRoundedRect(box, 6, 6);
    const QRect text = box.adjusted(10, 6, -10, 0);
    painter.setFont(theme::text_font(9, QFont::DemiBold));
    painter.setPen(theme::text);
    painter.drawText(text, Qt::AlignTop | Qt::AlignLeft,
                     painter.fontMetrics().elidedText(name, Qt::ElideRight, text.width()));
    painter.setFont(theme::text_font(8.5));
    painter.drawText(text.translated(0, 18), Qt::AlignTop | Qt::AlignLeft, cut_words(cut));
    painter.setPen(theme::quiet);
    painter.drawText(text.translated(0, 34), Qt::AlignTop | Qt::AlignLeft,
                     said("all bodies take %1 ms of the picture").arg(draw_ms, 0, 'f', 1));
    // Sizes, from the smallest to the largest, each class as wide as the others in powers of the volume.
    const size_t most = std::max<size_t>(*std::max_element(cut.sizes.begin(), cut.sizes.end()), 1);
    const double column = double(text.width()) / double(cut.sizes.size());
    const double foot = box.bottom() - 20, room = 36;
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::cost);
    for (size_t i = 0; i < cut.sizes.size(); ++i) {
        const double share = double(cut.sizes[i]) / double(most);
        const double height = cut.sizes[i] > 0 ? std::max(room * share, 2.0) : 0;
        painter.drawRect(QRectF(text.left() + column * double(i) + 1, foot - height, column - 2, height));
    }
    painter.setFont(theme::figure_font(7.5));
    painter.setPen(theme::quiet);
    const QRectF line(text.left(), foot + 2, text.width(), 14);
    painter.drawText(line, Qt::AlignLeft, volume_text(cut.smallest_m3));
    painter.drawText(line, Qt::AlignHCenter, said("sizes"));
    painter.drawText(line, Qt::AlignRight, volume_text(cut.largest_m3));
    painter.restore();
}

} // namespace ember
