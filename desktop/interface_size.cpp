#include "desktop/interface_size.h"

#include <QSettings>

#include <algorithm>

namespace ember {

namespace {

const QString size_key = QStringLiteral("interface_percent");
constexpr const char* factor = "QT_SCALE_FACTOR"; // Qt's own

} // namespace

void set_interface_size(int percent) {
    QSettings().setValue(size_key, percent);
    qunsetenv(factor); // of what is started next
}

void apply_interface_size() {
    const int percent = std::clamp(QSettings().value(size_key, 100).toInt(), 100, 200);
    if (percent != 100 && !qEnvironmentVariableIsSet(factor)) {
        qputenv(factor, QByteArray::number(percent / 100.0));
    }
}

} // namespace ember
