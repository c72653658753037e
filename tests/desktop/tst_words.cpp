// Words are whole: with texts a third longer, at two sizes of the interface, no label, button or name in any
// panel is cut.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "desktop/board/board_panel.h"
#include "desktop/compare/compare_window.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/dialogs/fit_sheet.h"
#include "desktop/dialogs/history_list.h"
#include "desktop/dialogs/picture_sheet.h"
#include "desktop/dialogs/trial_sheet.h"
#include "desktop/dialogs/worth_sheet.h"
#include "desktop/files.h"
#include "desktop/interface_size.h"
#include "desktop/takes/takes_dialog.h"

#include <QAbstractButton>
#include <QComboBox>
#include <QLabel>
#include <QTemporaryDir>
#include <QToolButton>
#include <QTranslator>

using namespace ember;

namespace {

// Every text with a third more, as other languages have.
class LongWords : public QTranslator {
  public:
    QString translate(const char*, const char* text, const char*, int) const override {
        const QString given = QString::fromUtf8(text);
        const bool is_sentence = given.size() > 40;
        const bool is_long = given.size() > 6; // in two words
        QString more = is_long ? QStringLiteral(" ") : QString();
        while (!is_sentence && more.size() * 3 < given.size()) {
            more += QLatin1Char('e');
        }
        return more.isEmpty() ? given : given + more;
    }
    bool isEmpty() const override { return false; }
};

// The text without what is no letter of it.
int needed_width(const QWidget* widget, QString text) {
    text.remove('&');
    int widest = 0;
    for (const QString& line : text.split('\n')) {
        widest = std::max(widest, widget->fontMetrics().horizontalAdvance(line));
    }
    return widest;
}

QStringList cut_words(const QWidget& window) {
    QStringList cut;
    const auto check = [&](const QWidget* widget, const QString& text, int room) {
        if (widget->isVisible() && !text.isEmpty() && needed_width(widget, text) > room) {
            cut << QStringLiteral("%1 (%2 of %3 px)").arg(text).arg(room).arg(needed_width(widget, text));
        }
    };
    for (const QLabel* label : window.findChildren<QLabel*>()) {
        const int room = label->contentsRect().width() - std::max(label->indent(), 0);
        if (!label->wordWrap()) {
            check(label, label->text(), room);
        } else if (label->isVisible() && label->heightForWidth(label->width()) > label->height()) {
            cut << label->text() + QStringLiteral(" (too low)");
        } else if (label->isVisible()) { // a word of its own
            for (const QString& word : label->text().split(QRegularExpression(QStringLiteral("\\s+")))) {
                check(label, word, room);
            }
        }
    }
    for (const QAbstractButton* button : window.findChildren<QAbstractButton*>()) {
        const auto* tool = qobject_cast<const QToolButton*>(button);
        if (tool != nullptr && !tool->icon().isNull() && tool->toolButtonStyle() == Qt::ToolButtonIconOnly) {
            continue;
        }
        // With the room that its style keeps round the text.
        const int padding = button->sizeHint().width() - needed_width(button, button->text());
        check(button, button->text(), button->width() - std::max(padding, 0));
    }
    return cut;
}

// Layouts follow events: so many rounds of those are enough on any machine.
bool is_whole_soon(const QWidget& widget, QStringList& cut) {
    for (int round = 0; round < 50; ++round) {
        QCoreApplication::processEvents();
        cut = cut_words(widget);
        if (cut.isEmpty()) {
            return true;
        }
    }
    return false;
}

} // namespace

class TestWords : public QObject {
    Q_OBJECT

  private slots:
    void no_text_is_cut_data() {
        QTest::addColumn<int>("percent");
        QTest::addColumn<QSize>("size");
        QTest::newRow("1280x800") << 100 << QSize(1280, 800);
        QTest::newRow("1000x700") << 100 << QSize(1000, 700);
        QTest::newRow("1280x800 at 150 %") << 150 << QSize(1280, 800);
    }
    void no_text_is_cut() {
        QFETCH(int, percent);
        QFETCH(QSize, size);
        QTemporaryDir folder;
        LongWords words;
        QCoreApplication::installTranslator(&words);
        auto window = driver::shown_window(folder.path());
        QVERIFY(window != nullptr);
        QCOMPARE(set_interface_size(percent, 1, 1), percent);
        window->resize(size);
        QStringList cut;
        int looked_at = 0;
        for (const QString& demo : Files::demoNames()) {
            window->files().openDemo(demo);
            std::vector<std::string> ids = {std::string(stage_id), std::string(budget_id)};
            std::set<std::string_view> types;
            for (const Element& element : window->workbench().effect()->elements) {
                if (types.insert(type_of(element.body).key).second) {
                    ids.push_back(element.id);
                }
            }
            for (const std::string& id : ids) {
                window->select(id);
                QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
                for (const char* key : {"size_over_life", "colour_over_life", "colour"}) {
                    window->detail()->openEditor(key);
                }
                // Once it is laid out: a picture may come between, with other figures.
                QStringList now;
                const bool is_whole = is_whole_soon(*window, now);
                cut << (is_whole ? QStringList() : now);
                ++looked_at;
            }
        }
        // And the sheets that open from here.
        const auto look_at = [&](QWidget* sheet) {
            QVERIFY(sheet != nullptr && QTest::qWaitForWindowExposed(sheet));
            QStringList now;
            const bool is_whole = is_whole_soon(*sheet, now);
            cut << (is_whole ? QStringList() : now);
        };
        PictureSheet picture(window->workbench().effect()->stage, {900, 600}, folder.filePath("a.png"),
                             nullptr);
        picture.show();
        look_at(&picture);
        TrialSheet trials(window->workbench(), {}, 1, nullptr);
        trials.setAttribute(Qt::WA_DeleteOnClose, false);
        trials.show();
        trials.kinds()->setCurrentIndex(2);
        emit trials.kinds()->activated(2);
        look_at(&trials);
        HistoryPictures pictures;
        HistoryList edits(window->workbench().document(), pictures, nullptr);
        edits.setAttribute(Qt::WA_DeleteOnClose, false);
        edits.show();
        look_at(&edits);
        TakesDialog takes({}, window->workbench().effect(), nullptr);
        takes.show();
        look_at(&takes);
        Workbench& bench = window->workbench();
        WorthSheet worth(bench, {}, {64, 40}, {0, 1}, nullptr);
        worth.setAttribute(Qt::WA_DeleteOnClose, false);
        worth.show();
        look_at(&worth);
        FitSheet fit(bench, {}, {64, 40}, {0, 1}, nullptr);
        fit.setAttribute(Qt::WA_DeleteOnClose, false);
        fit.show();
        look_at(&fit);
        CompareWindow compare(bench, {}, nullptr);
        compare.setAttribute(Qt::WA_DeleteOnClose, false);
        compare.show();
        look_at(&compare);
        cut.removeDuplicates();
        QCoreApplication::removeTranslator(&words);
        set_interface_size(100, 1, 1);
        QVERIFY(looked_at > 40);
        QVERIFY2(cut.isEmpty(), qPrintable(cut.join('\n')));
    }
};

QTEST_MAIN(TestWords)
#include "tst_words.moc"
