// What the window's tests have in common.
#pragma once

#include "desktop/gallery/gallery.h"
#include "desktop/main_window.h"

#include <QApplication>
#include <QComboBox>
#include <QInputDialog>
#include <QLineEdit>
#include <QMenu>
#include <QPointer>
#include <QSignalSpy>
#include <QTemporaryDir>
#include <QTimer>
#include <QtTest>

#include <functional>
#include <memory>

namespace ember::driver {

/// A window of 1280x800 that is on the screen. `folder` takes its unsaved work.
inline std::unique_ptr<MainWindow> shown_window(const QString& folder) {
    auto window = std::make_unique<MainWindow>(folder);
    window->resize(1280, 800);
    window->show();
    return QTest::qWaitForWindowExposed(window.get()) ? std::move(window) : nullptr;
}

/// Writes into a field and leaves it with Enter, as one does.
inline void type(QLineEdit* field, const char* text) {
    field->setFocus();
    field->selectAll();
    QTest::keyClicks(field, text);
    QTest::keyClick(field, Qt::Key_Return);
}

/// Runs the window's command of this name.
inline void run(const MainWindow& window, const QString& command) {
    for (QAction* action : window.commands()) {
        if (action->text() == command) {
            return action->trigger();
        }
    }
    QFAIL(qPrintable(command));
}

/// Until so many further pictures were shown.
inline void wait_for_pictures(MainWindow& window, int count) {
    for (int i = 0; i < count; ++i) {
        QSignalSpy shown(&window, &MainWindow::pictureShown);
        QVERIFY(shown.wait(120000));
    }
}

/// Answers the dialog or the menu of a class that is about to open, once it is there.
template <class Opened>
void when_open(std::function<void(Opened*)> answer) {
    QTimer::singleShot(20, [answer = std::move(answer)]() mutable {
        for (QWidget* each : {QApplication::activePopupWidget(), QApplication::activeModalWidget()}) {
            if (auto* opened = qobject_cast<Opened*>(each); opened != nullptr && opened->isVisible()) {
                const QPointer<QWidget> owner =
                    opened->parentWidget() != nullptr ? opened->parentWidget()->window() : nullptr;
                answer(opened);
                if (owner) { // what closes as soon as it has opened may leave nothing active
                    owner->activateWindow();
                }
                return;
            }
        }
        when_open<Opened>(std::move(answer));
    });
}

/// Takes the line that `is_wanted` of the menu that is about to open.
inline void choose_in_menu(std::function<bool(const QString& text)> is_wanted) {
    when_open<QMenu>([is_wanted = std::move(is_wanted)](QMenu* menu) {
        for (QAction* action : menu->actions()) {
            if (is_wanted(action->text())) {
                menu->setActiveAction(action);
                QTest::keyClick(menu, Qt::Key_Return);
                return;
            }
        }
        menu->close();
        QFAIL("no such line in the menu");
    });
}
inline void choose_in_menu(const QString& label) {
    choose_in_menu([label](const QString& text) { return text == label; });
}

/// Writes into the dialog that is about to ask for a text.
inline void answer_text(const QString& text) {
    when_open<QInputDialog>([text](QInputDialog* dialog) {
        dialog->setTextValue(text);
        dialog->accept();
    });
}

/// Types words into the gallery that is about to open, then presses Enter.
inline void answer_gallery(const char* words) {
    when_open<Gallery>([words](Gallery* gallery) {
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

/// What tests of the whole window begin with: one that shows its first picture, and keeps its files in a
/// folder of its own.
class WindowTest : public QObject {
  protected:
    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    Workbench& bench() { return window_->workbench(); }
    const Effect& effect() { return *bench().effect(); }
    const Readings& readings() { return bench().pictureMaker().shot().readings; }

    void openWindow() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = shown_window(folder_->path());
        QVERIFY(window_ != nullptr);
        wait_for_pictures(*window_, 1);
    }
    /// Nothing is unsaved, so that nobody is asked.
    void closeWindow() {
        bench().document().reset(effect(), {});
        window_.reset();
    }
};

} // namespace ember::driver
