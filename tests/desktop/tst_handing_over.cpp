// Bakes and clips in the window, by mouse and keys.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "desktop/controls/number_field.h"
#include "desktop/dialogs/bake_sheet.h"
#include "desktop/strip/budget_strip.h"
#include "desktop/strip/clip_lanes.h"

#include <QCheckBox>
#include <QComboBox>
#include <QDir>
#include <QDragEnterEvent>
#include <QDropEvent>
#include <QLabel>
#include <QMimeData>
#include <QPushButton>
#include <QStatusBar>

using namespace ember;

class TestHandingOver : public driver::WindowTest {
    Q_OBJECT

    BakeSheet* open() {
        window_->activateWindow();
        QTest::keyClick(window_.get(), Qt::Key_K, Qt::ControlModifier);
        auto* sheet = window_->findChild<BakeSheet*>();
        return sheet != nullptr && QTest::qWaitForWindowExposed(sheet) ? sheet : nullptr;
    }
    // Only these kinds, for a third of a second.
    void choose(BakeSheet* sheet, const QStringList& kinds, const QString& folder) {
        for (auto* box : sheet->findChildren<QCheckBox*>()) {
            if (sheet->kind(box->accessibleName()) == box) {
                box->setChecked(kinds.contains(box->accessibleName()));
            }
        }
        driver::type(sheet->fromField(), "0");
        driver::type(sheet->toField(), "0.4");
        driver::type(sheet->widthField(), "96");
        driver::type(sheet->heightField(), "64");
        sheet->folderField()->setText(folder);
    }
    static bool ended(BakeSheet* sheet) {
        return QTest::qWaitFor([&] { return !sheet->isRunning(); }, 120000);
    }
    const Emitter& clip() {
        for (const Element& each : effect().elements) {
            const auto* emitter = std::get_if<Emitter>(&each.body);
            if (emitter != nullptr && emitter->shape == BirthShape::clip) {
                clip_ = each.id;
                return *emitter;
            }
        }
        qFatal("no clip");
    }
    std::string clip_;

  private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void frames_are_baked_while_the_effect_plays() {
        BakeSheet* sheet = open();
        QVERIFY(sheet != nullptr && !sheet->isModal());
        choose(sheet, {"particles", "pictures", "sheet"}, folder_->filePath("out"));
        const double before_s = readings().time_s;
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(ended(sheet));
        QVERIFY2(sheet->words()->text().contains("12 frames"), qPrintable(sheet->words()->text()));
        QCOMPARE(QDir(folder_->filePath("out/particles")).entryList(QDir::Files).size(), qsizetype(12));
        QCOMPARE(QDir(folder_->filePath("out/pictures")).entryList(QDir::Files).size(), qsizetype(12));
        QVERIFY(QFile::exists(folder_->filePath("out/sheet/sheet.json")));
        // The sheet plays beside what is said of it.
        QVERIFY(sheet->preview()->isVisible());
        QVERIFY(sheet->words()->text().contains("MB"));
        QTRY_VERIFY(!sheet->preview()->image().isNull());
        QTRY_VERIFY(readings().time_s > before_s);
    }

    void what_cannot_be_baked_is_said() {
        BakeSheet* sheet = open();
        QVERIFY(sheet != nullptr);
        choose(sheet, {}, folder_->filePath("none"));
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(sheet->words()->text().contains("choose what is written"));
        choose(sheet, {"video"}, folder_->filePath("odd"));
        driver::type(sheet->widthField(), "97");
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(sheet->words()->text().contains("even"));
        // Somebody else's folder.
        QDir().mkpath(folder_->filePath("mine"));
        QFile letter(folder_->filePath("mine/letter.txt"));
        QVERIFY(letter.open(QIODevice::WriteOnly));
        letter.write("mine");
        letter.close();
        choose(sheet, {"particles"}, folder_->filePath("mine"));
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(ended(sheet));
        QVERIFY(sheet->words()->text().contains("other files"));
        QVERIFY(!sheet->layButton()->isEnabled());
        // What the effect does not have cannot be chosen.
        QVERIFY(!sheet->kind("smoke")->isEnabled() && !sheet->kind("pieces")->isEnabled());
    }

    void a_bake_is_stopped_and_goes_on() {
        BakeSheet* sheet = open();
        QVERIFY(sheet != nullptr);
        choose(sheet, {"particles"}, folder_->filePath("long"));
        driver::type(sheet->toField(), "20");
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QTRY_VERIFY(QFile::exists(folder_->filePath("long/particles/00002.ply")));
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(ended(sheet));
        const auto count = [&] {
            return QDir(folder_->filePath("long/particles")).entryList(QDir::Files).size();
        };
        const auto before = count();
        QVERIFY(before >= 3 && before < 600);
        QVERIFY(!QFile::exists(folder_->filePath("long/particles/00599.ply")));
        // The same again.
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(ended(sheet));
        QCOMPARE(count(), qsizetype(600));
    }

    void a_clip_is_laid_beside_live_sparks_moved_trimmed_and_muted() {
        const QString path = folder_->filePath("sparks.ember.json");
        QVERIFY(!bench().document().save(path));
        BakeSheet* sheet = open();
        QVERIFY(sheet != nullptr);
        choose(sheet, {"particles"}, folder_->filePath("sparks-baked"));
        driver::type(sheet->toField(), "2");
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(ended(sheet));
        const size_t before = effect().elements.size();
        bench().setPlaying(false);
        QTest::mouseClick(sheet->layButton(), Qt::LeftButton);
        QCOMPARE(effect().elements.size(), before + 1);
        QCOMPARE(clip().clip, std::string("sparks-baked/particles/00000.ply"));
        sheet->close();

        ClipLanes* lanes = window_->strip()->clips();
        QTRY_VERIFY(bench().clipLengths().size() == 1);
        QCOMPARE(bench().clipLengths().begin()->second, 2.0);
        bench().player().go_to(0);
        window_->strip()->update();
        QTRY_VERIFY(lanes->barRect(clip_).width() > 40);

        // To another moment, by the mouse.
        const auto drag = [&](QPoint from, int by) {
            QTest::mousePress(lanes, Qt::LeftButton, {}, from);
            for (int i = 1; i <= 4; ++i) {
                const QPoint at = from + QPoint(by * i / 4, 0);
                QMouseEvent move(QEvent::MouseMove, at, lanes->mapToGlobal(at), Qt::NoButton, Qt::LeftButton,
                                 {});
                QApplication::sendEvent(lanes, &move);
            }
            QTest::mouseRelease(lanes, Qt::LeftButton, {}, from + QPoint(by, 0));
        };
        const float start = clip().clip_start;
        drag(lanes->barRect(clip_).center(), 90);
        const float moved = clip().clip_start;
        QVERIFY(moved > start + 0.3f);
        bench().undo();
        QCOMPARE(clip().clip_start, start); // in one
        bench().redo();

        // Its ends trim it; what it shows stays where it is.
        const QRect bar = lanes->barRect(clip_);
        drag({bar.right() - 2, bar.center().y()}, -30);
        QVERIFY(clip().clip_to > 0.2f && clip().clip_to < 2);
        drag({lanes->barRect(clip_).left() + 2, bar.center().y()}, 25);
        QVERIFY(clip().clip_from > 0.05f);
        QVERIFY(std::abs((clip().clip_start - moved) - clip().clip_from) < 1e-3f);

        // It is alive then, and not once it is muted.
        bench().player().go_to(double(clip().clip_start) + 0.2);
        const auto live = [&] {
            const ElementMeter* meter = readings().find(clip_);
            return meter != nullptr ? meter->live : 0;
        };
        QTRY_VERIFY(live() > 10);
        QTest::mouseClick(lanes, Qt::LeftButton, {}, lanes->barRect(clip_).center());
        QTest::keyClick(lanes, Qt::Key_M);
        QVERIFY(find_element(effect(), clip_)->muted);
        QTRY_VERIFY(live() == 0);
        // A step later by the keyboard.
        const float before_key = clip().clip_start;
        QTest::keyClick(lanes, Qt::Key_Right);
        QVERIFY(std::abs(clip().clip_start - before_key - 1 / 60.0f) < 1e-4f);
    }

    // A wall that breaks and smoke, baked and laid: each volume and each body plays its own.
    void smoke_and_pieces_are_laid_too() {
        Effect made = starter_effect();
        std::string id;
        const auto type = [](const char* key) {
            return *std::find_if(element_types().begin(), element_types().end(),
                                 [&](const ElementType& each) { return each.key == key; });
        };
        made.elements.clear();
        std::vector<std::string> ids;
        for (const char* key : {"smoke", "smoke-source", "breakable", "breakable"}) {
            made = with_new_element(made, type(key), id);
            ids.push_back(id);
        }
        const auto block = [&](const std::string& of, int pieces, const char* name) {
            Element& each = *std::find_if(made.elements.begin(), made.elements.end(),
                                          [&](const Element& element) { return element.id == of; });
            std::get<Breakable>(each.body).pieces = pieces;
            each.id = name;
        };
        block(ids[2], 4, "zinc"); // the file has them by id
        block(ids[3], 7, "alum");
        bench().document().reset(made, {});
        QVERIFY(!bench().document().save(folder_->filePath("mixed.ember.json")));
        driver::wait_for_pictures(*window_, 2);
        BakeSheet* sheet = open();
        QVERIFY(sheet != nullptr);
        choose(sheet, {"smoke", "pieces"}, folder_->filePath("mixed-baked"));
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(ended(sheet));
        bench().setPlaying(false);
        QTest::mouseClick(sheet->layButton(), Qt::LeftButton);
        QCOMPARE(effect().elements.size(), size_t(7));
        sheet->close();
        const auto playing = [&](const char* name) -> const Element& {
            return *std::find_if(effect().elements.begin(), effect().elements.end(),
                                 [&](const Element& each) {
                                     return clip_of(each.body) != nullptr && each.name.find(name) == 0;
                                 });
        };
        const auto name_of = [&](const char* of) { return find_element(effect(), of)->name; };
        const std::string zinc = name_of("zinc"), alum = name_of("alum");
        QCOMPARE(std::get<Smoke>(playing("Smoke").body).clip, std::string("mixed-baked/smoke/00000.vdb"));
        const auto body = [&](const std::string& name) {
            return std::get<Breakable>(playing((name + " clip").c_str()).body).clip_body;
        };
        QCOMPARE(body(zinc), 2);
        QCOMPARE(body(alum), 1);
        QTRY_VERIFY(bench().clipLengths().size() == 3);
        const Element& laid = playing((zinc + " clip").c_str());
        QTRY_VERIFY(window_->strip()->clips()->barRect(laid.id).width() > 2);
        bench().player().go_to(double(clip_of(laid.body)->clip_start) + 0.2);
        const auto pieces = [&](const std::string& of) {
            const ElementMeter* meter = readings().find(of);
            return meter != nullptr ? meter->debris.pieces : 0;
        };
        QTRY_VERIFY(pieces(laid.id) > 0);
        QCOMPARE(pieces(laid.id), pieces("zinc"));
        QCOMPARE(pieces(playing((alum + " clip").c_str()).id), pieces("alum"));
        QVERIFY(pieces("zinc") != pieces("alum"));
        // All in one step back.
        bench().undo();
        QCOMPARE(effect().elements.size(), size_t(4));
    }

    void files_that_are_dropped_become_what_one_chooses() {
        QVERIFY(!bench().document().save(folder_->filePath("it.ember.json")));
        const QTemporaryDir elsewhere;
        QFile mesh(elsewhere.filePath("wedge.obj"));
        QVERIFY(mesh.open(QIODevice::WriteOnly));
        mesh.write("v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n");
        mesh.close();
        const auto drop = [&](const QString& path) {
            QMimeData data;
            data.setUrls({QUrl::fromLocalFile(path)});
            const QPoint place(400, 300);
            QDragEnterEvent enter(place, Qt::CopyAction, &data, Qt::LeftButton, {});
            QApplication::sendEvent(window_.get(), &enter);
            QVERIFY(enter.isAccepted());
            QDropEvent event(place, Qt::CopyAction, &data, Qt::LeftButton, {});
            QApplication::sendEvent(window_.get(), &event);
        };
        const size_t before = effect().elements.size();
        driver::choose_in_menu("Something to hit");
        drop(elsewhere.filePath("wedge.obj"));
        QTRY_COMPARE(effect().elements.size(), before + 1);
        const Element* added = find_element(effect(), bench().selection());
        QVERIFY(added != nullptr && std::holds_alternative<MeshCollider>(added->body));
        QCOMPARE(std::get<MeshCollider>(added->body).mesh, std::string("wedge.obj"));
        QVERIFY(QFile::exists(folder_->filePath("wedge.obj"))); // brought along
        bench().undo();
        QCOMPARE(effect().elements.size(), before);

        driver::choose_in_menu("An emitter on its surface");
        drop(folder_->filePath("wedge.obj"));
        QTRY_COMPARE(effect().elements.size(), before + 1);
        QCOMPARE(std::get<Emitter>(find_element(effect(), bench().selection())->body).shape,
                 BirthShape::mesh);

        // What nothing can be made of is said.
        QSignalSpy said(window_->statusBar(), &QStatusBar::messageChanged);
        QFile text(folder_->filePath("song.ogg"));
        QVERIFY(text.open(QIODevice::WriteOnly));
        text.close();
        drop(folder_->filePath("song.ogg"));
        QTRY_VERIFY(!said.isEmpty() && said.back()[0].toString().contains("song.ogg"));
        // An effect is opened.
        QVERIFY(!save_effect(starter_effect(), folder_->filePath("other.ember.json").toStdString()));
        bench().document().reset(effect(), folder_->filePath("it.ember.json"),
                                 folder_->path()); // nothing is unsaved
        drop(folder_->filePath("other.ember.json"));
        QTRY_VERIFY(bench().document().path().endsWith("other.ember.json"));
    }

    void a_folder_elsewhere_cannot_be_laid() {
        BakeSheet* sheet = open();
        QVERIFY(sheet != nullptr);
        choose(sheet, {"particles"}, folder_->filePath("elsewhere"));
        QTest::mouseClick(sheet->startButton(), Qt::LeftButton);
        QVERIFY(ended(sheet));
        QSignalSpy said(&bench(), &Workbench::said);
        QTest::mouseClick(sheet->layButton(), Qt::LeftButton); // the effect has no file yet
        QCOMPARE(said.size(), qsizetype(1));
        QVERIFY(said[0][0].toString().contains("Not laid"));
    }
};

QTEST_MAIN(TestHandingOver)
#include "tst_handing_over.moc"
