// What the window's tests have in common.
#pragma once

#include "desktop/gallery/gallery.h"
#include "desktop/main_window.h"

#include <QApplication>
#include <QComboBox>
#include <QLineEdit>
#include <QSignalSpy>
#include <QTimer>
#include <QtTest>

#include <memory>

namespace ember::driver {

/// A window of 1280x800 that is on the screen. `folder` takes its unsaved work.
inline std::unique_ptr<MainWindow> shown_window(const QString& folder) {
    auto window = std::make_unique<MainWindow>(folder);
    window->resize(1280, 800);
    window->show();
    return QTest::qWaitForWindowExposed(window.get()) ? std::move(window) : nullptr;
}

/// Until so many further pictures were shown.
inline void wait_for_pictures(MainWindow& window, int count) {
    for (int i = 0; i < count; ++i) {
        QSignalSpy shown(&window, &MainWindow::pictureShown);
        QVERIFY(shown.wait(120000));
    }
}

/// Types words into the gallery that is about to open, then presses Enter.
inline void answer_gallery(const char* words) {
    QTimer::singleShot(100, [words] {
        auto* gallery = qobject_cast<Gallery*>(QApplication::activeModalWidget());
        QVERIFY(gallery != nullptr);
        QTest::keyClicks(gallery->filterField(), words);
        QTest::keyClick(gallery->filterField(), Qt::Key_Return);
    });
}

/// The ids that the choice of this name offers in the panel.
inline QStringList offered(const MainWindow& window, const char* name) {
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete); // rows that were
    QStringList ids;
    for (const QComboBox* box : window.findChildren<QComboBox*>()) {
        for (int i = 0; box->accessibleName() == name && i < box->count(); ++i) {
            ids << box->itemData(i).toString();
        }
    }
    return ids;
}

} // namespace ember::driver
