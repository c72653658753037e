#include "desktop/interface_size.h"

// Qt takes a scale from the environment when a program starts and has no public way to change it afterwards.
// This is the one place that uses what is behind that.
#include <private/qhighdpiscaling_p.h>

#include <QApplication>
#include <QGuiApplication>
#include <QScreen>
#include <QSettings>
#include <QWidget>
#include <QWindow>

#include <algorithm>
#include <vector>

namespace ember {

namespace {

const QString size_key = QStringLiteral("interface_percent");
constexpr const char* factor = "QT_SCALE_FACTOR"; // Qt's own
constexpr int least = 100, most = 200;

} // namespace

int interface_size() {
    return std::clamp(QSettings().value(size_key, least).toInt(), least, most);
}

void apply_interface_size() {
    if (interface_size() != least && !qEnvironmentVariableIsSet(factor)) {
        qputenv(factor, QByteArray::number(interface_size() / 100.0));
    }
}

int set_interface_size(int percent, int least_width, int least_height) {
    const QScreen* screen = QGuiApplication::primaryScreen();
    const double now = QHighDpiScaling::factor(screen);
    const QSizeF pixels = QSizeF(screen->geometry().size()) * now;
    const double fits = std::min(pixels.width() / least_width, pixels.height() / least_height) * 100;
    const int taken = std::clamp(std::min(percent, int(fits)), least, most);
    QSettings().setValue(size_key, taken);

    // What stands on the screen goes, and comes back at its new size.
    std::vector<QWidget*> shown;
    for (QWidget* widget : QApplication::topLevelWidgets()) {
        if (widget->isVisible()) {
            shown.push_back(widget);
            widget->hide();
        }
    }
    for (QWindow* window : QGuiApplication::topLevelWindows()) {
        window->destroy();
    }
    QHighDpiScaling::setGlobalFactor(taken / 100.0);
    for (QWidget* widget : shown) {
        const QSize room = screen->availableGeometry().size();
        widget->resize(widget->size().boundedTo(room));
        widget->show();
    }
    return taken;
}

} // namespace ember
