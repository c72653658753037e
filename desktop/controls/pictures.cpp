#include "desktop/controls/pictures.h"

#include <algorithm>

namespace ember {

namespace {

QImage copied(const std::vector<uint32_t>& pixels, int width, int height) {
    return width == 0 ? QImage()
                      : QImage(reinterpret_cast<const uchar*>(pixels.data()), width, height, width * 4,
                               QImage::Format_RGB32)
                            .copy();
}

} // namespace

QImage image_of(const Picture& picture) {
    return copied(picture.pixels, picture.width, picture.height);
}

QImage image_of(const SmallPicture& picture) {
    return copied(picture.pixels, picture.width, picture.height);
}

QImage difference_of(const QImage& a, const QImage& b) {
    constexpr int times = 4;
    QImage difference(a.size().boundedTo(b.size()), QImage::Format_RGB32);
    for (int y = 0; y < difference.height(); ++y) {
        const auto* from_a = reinterpret_cast<const QRgb*>(a.constScanLine(y));
        const auto* from_b = reinterpret_cast<const QRgb*>(b.constScanLine(y));
        auto* to = reinterpret_cast<QRgb*>(difference.scanLine(y));
        for (int x = 0; x < difference.width(); ++x) {
            const auto apart = [](int one, int other) {
                return std::min(std::abs(one - other) * times, 255);
            };
            to[x] = qRgb(apart(qRed(from_a[x]), qRed(from_b[x])), apart(qGreen(from_a[x]), qGreen(from_b[x])),
                         apart(qBlue(from_a[x]), qBlue(from_b[x])));
        }
    }
    return difference;
}

} // namespace ember
