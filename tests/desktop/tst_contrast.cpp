// Text is read against what is under it: measured on the pixels of every kind of control, in every state, in
// both themes.
#include "desktop/controls/choice_box.h"
#include "desktop/controls/number_field.h"
#include "desktop/theme.h"

#include <QAbstractItemView>
#include <QCheckBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QMenu>
#include <QPlainTextEdit>
#include <QPushButton>
#include <QToolButton>
#include <QtTest>

#include <map>

using namespace ember;

namespace {

// Between what most of the picture is and what differs most from it.
double contrast_in(const QImage& image) {
    std::map<QRgb, int> counts;
    for (int y = 0; y < image.height(); ++y) {
        for (int x = 0; x < image.width(); ++x) {
            ++counts[image.pixel(x, y) & 0xffffff];
        }
    }
    const auto most = std::max_element(counts.begin(), counts.end(),
                                       [](const auto& a, const auto& b) { return a.second < b.second; });
    double best = 1;
    for (const auto& [colour, count] : counts) {
        best = std::max(best, theme::contrast(QColor(colour), QColor(most->first)));
    }
    return best;
}

// The inner part, without frames.
QImage inside(QWidget& widget, const QRect& part = {}) {
    const QRect rect = part.isNull() ? widget.rect() : part;
    return widget.grab(rect.adjusted(3, 3, -3, -3)).toImage();
}

} // namespace

class TestContrast : public QObject {
    Q_OBJECT

    static constexpr double least = 4.5;

  private slots:
    void initTestCase() { theme::apply(*static_cast<QApplication*>(qApp)); }
    void cleanupTestCase() { theme::set_high_contrast(false); }

    void controls_are_read_in_every_state_data() {
        QTest::addColumn<bool>("high");
        QTest::newRow("usual") << false;
        QTest::newRow("high contrast") << true;
    }
    void controls_are_read_in_every_state() {
        QFETCH(bool, high);
        theme::set_high_contrast(high);
        QWidget panel;
        panel.resize(400, 500);
        const auto check = [&](const char* what, QWidget& widget) {
            widget.resize(160, widget.sizeHint().height());
            for (const bool enabled : {true, false}) {
                widget.setEnabled(enabled);
                const double found = contrast_in(inside(widget));
                QVERIFY2(found >= least,
                         qPrintable(QString("%1, enabled %2: %3").arg(what).arg(enabled).arg(found)));
            }
            widget.setEnabled(true);
        };
        QPushButton push("Word", &panel);
        check("button", push);
        push.setCheckable(true);
        push.setChecked(true);
        check("checked button", push);
        QToolButton tool(&panel);
        tool.setText("Word");
        check("tool button", tool);
        tool.setProperty("quiet", true);
        tool.style()->unpolish(&tool);
        tool.style()->polish(&tool);
        check("quiet tool button", tool);
        QLineEdit line("Word", &panel);
        check("line", line);
        line.selectAll();
        check("selected line", line);
        NumberField number(0, 1e7, 1, false, "a number", &panel);
        number.setNumber(2.5e6);
        check("number", number);
        ChoiceBox choice(&panel);
        choice.addItems({"First", "Second"});
        check("choice", choice);
        QLabel label("Word", &panel);
        check("label", label);
        for (const char* ink : {"quiet", "cost", "close"}) {
            label.setProperty("ink", ink);
            label.style()->unpolish(&label);
            label.style()->polish(&label);
            check(ink, label);
        }
        QPlainTextEdit text("Word", &panel);
        text.resize(160, 60);
        QVERIFY(contrast_in(inside(*text.viewport())) >= least);
    }

    void open_lists_show_each_row_and_the_current_one_data() { controls_are_read_in_every_state_data(); }
    void open_lists_show_each_row_and_the_current_one() {
        QFETCH(bool, high);
        theme::set_high_contrast(high);
        QWidget panel;
        panel.resize(300, 200);
        panel.show();
        ChoiceBox choice(&panel);
        choice.addItems({"First", "Second", "Third"});
        choice.resize(160, 24);
        choice.show();
        choice.setCurrentIndex(1);
        choice.showPopup();
        QAbstractItemView* list = choice.view();
        QTRY_VERIFY(list->isVisible());
        QImage rows[3];
        for (int i = 0; i < 3; ++i) {
            rows[i] = list->viewport()
                          ->grab(list->visualRect(choice.model()->index(i, 0)).adjusted(1, 1, -1, -1))
                          .toImage();
            QVERIFY2(contrast_in(rows[i]) >= least,
                     qPrintable(QString("row %1: %2").arg(i).arg(contrast_in(rows[i]))));
        }
        // The current one is told from the others.
        QVERIFY(theme::contrast(rows[1].pixelColor(2, 2), rows[0].pixelColor(2, 2)) > 3);
        choice.hidePopup();

        QMenu menu;
        QAction* one = menu.addAction("Word");
        menu.addAction("Other")->setEnabled(false);
        menu.popup(QPoint(0, 0));
        menu.setActiveAction(one);
        for (QAction* action : menu.actions()) {
            const QImage item = menu.grab(menu.actionGeometry(action).adjusted(2, 2, -2, -2)).toImage();
            QVERIFY2(contrast_in(item) >= least, qPrintable(action->text()));
        }
        menu.hide();
    }

    void a_tick_is_seen_data() { controls_are_read_in_every_state_data(); }
    void a_tick_is_seen() {
        QFETCH(bool, high);
        theme::set_high_contrast(high);
        QWidget panel;
        QCheckBox box(&panel);
        box.resize(40, 24);
        for (const bool on : {false, true}) {
            box.setChecked(on);
            QVERIFY2(contrast_in(box.grab().toImage()) >= least, on ? "on" : "off");
        }
        // On and off are told apart by more than the tick's colour.
        box.setChecked(true);
        const QImage checked = box.grab().toImage();
        box.setChecked(false);
        QVERIFY(checked != box.grab().toImage());
    }

    void figures_on_swatches_are_read() {
        for (int red = 0; red < 256; red += 15) {
            for (int green = 0; green < 256; green += 15) {
                for (int blue = 0; blue < 256; blue += 15) {
                    const QColor swatch(red, green, blue);
                    QVERIFY(theme::contrast(theme::ink_on(swatch), swatch) >= least);
                }
            }
        }
    }
};

QTEST_MAIN(TestContrast)
#include "tst_contrast.moc"
