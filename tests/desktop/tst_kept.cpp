// What is kept and gone back to: presets, starts, edits with their pictures, pictures on disk, and a window
// that changes its size while it runs.
#include "window_driver.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/choice_pictures.h"
#include "desktop/controls/number_field.h"
#include "desktop/dialogs/history_list.h"
#include "desktop/dialogs/picture_sheet.h"
#include "desktop/files.h"
#include "desktop/gallery/offers.h"
#include "desktop/interface_size.h"
#include "desktop/view/live_view.h"

#include <QListWidget>
#include <QMessageBox>
#include <QPushButton>
#include <QToolButton>

using namespace ember;

class TestKept : public driver::WindowTest {
    Q_OBJECT

  private slots:
    void init() { openWindow(); }
    void cleanup() { closeWindow(); }

    void elements_are_kept_added_elsewhere_and_thrown_away() {
        bench().select("gravity");
        bench().edit(with_value(effect(), "gravity",
                                *holder_of(*find_element(effect(), "gravity")).find("strength"), 7.0f),
                     "strength");
        driver::answer_text("Heavy");
        driver::run(*window_, "Keep as a preset...");
        QCOMPARE(bench().presets().list(Presets::Kind::elements).size(), size_t(1));

        bench().document().reset(starter_effect(), {});
        const size_t before = effect().elements.size();
        driver::answer_gallery("Heavy");
        QTest::mouseClick(window_->boardPanel()->addInfluenceButton(), Qt::LeftButton);
        QCOMPARE(effect().elements.size(), before + 1);
        const Element& added = *find_element(effect(), bench().selection());
        QCOMPARE(std::get<Gravity>(added.body).strength, 7.0f);
        QVERIFY(find_link(added, "emitter") != nullptr); // as it was linked
        bench().undo();
        QCOMPARE(effect().elements.size(), before);

        // It stands with the influences, not with the sources; and goes by Delete, after a question.
        for (const Offer& offer : offers_to_add(Family::source, Family::source, bench().presets())) {
            QVERIFY(!offer.is_own);
        }
        driver::when_open<Gallery>([](Gallery* gallery) {
            const Offer own = *gallery->grid()->current();
            QVERIFY(!own.is_own);
            QTest::keyClick(gallery->filterField(), Qt::Key_Delete); // nothing of ours goes
            while (!gallery->grid()->current()->is_own) {
                gallery->grid()->move(Qt::Key_Right);
            }
            driver::when_open<QMessageBox>(
                [](QMessageBox* box) { QTest::mouseClick(box->button(QMessageBox::Yes), Qt::LeftButton); });
            QTest::keyClick(gallery->filterField(), Qt::Key_Delete);
            gallery->reject();
        });
        QTest::mouseClick(window_->boardPanel()->addInfluenceButton(), Qt::LeftButton);
        QVERIFY(bench().presets().list(Presets::Kind::elements).empty());
    }

    void a_look_is_kept_and_worn_by_another_source() {
        bench().select("emitter");
        Effect bright = effect();
        bright.looks[0].glow = 9;
        bench().edit(bright, "glow");
        driver::answer_text("Blinding");
        driver::run(*window_, "Keep its look...");
        QCOMPARE(bench().presets().list(Presets::Kind::look).size(), size_t(1));

        bench().document().reset(effect(), {}); // nothing is unsaved
        window_->files().openDemo(QStringLiteral("sluice-spray"));
        bench().select("sheet");
        const size_t elements = effect().elements.size();
        driver::answer_gallery("Blinding");
        driver::run(*window_, "Wear a kept look...");
        const std::string look = std::get<Emitter>(find_element(effect(), "sheet")->body).look;
        QCOMPARE(find_look(effect(), look)->glow, 9.0f);
        QCOMPARE(effect().elements.size(), elements);
        bench().undo();
        QVERIFY(std::get<Emitter>(find_element(effect(), "sheet")->body).look != look);
    }

    void files_go_with_a_preset() {
        const QString saltworks = QStringLiteral(EMBER_SOURCE_DIR "/demo/saltworks");
        const Effect shoal = *read_effect((saltworks + "/brine-shoal.ember.json").toStdString()).effect;
        QTemporaryDir presets_folder, to;
        const Presets presets(presets_folder.path());
        const auto keyed =
            std::find_if(shoal.elements.begin(), shoal.elements.end(),
                         [](const Element& each) { return std::holds_alternative<KeyedMover>(each.body); });
        QVERIFY(keyed != shoal.elements.end());
        QVERIFY(!presets.keepElements(Presets::Kind::elements, shoal, {keyed->id}, "Hand's way", saltworks));
        const auto kept = presets.list(Presets::Kind::elements);
        QCOMPARE(kept.size(), size_t(1));
        const QString file = QString::fromStdString(std::get<KeyedMover>(keyed->body).file);
        QVERIFY(QFileInfo::exists(QFileInfo(kept[0].path).path() + "/" + file));

        // An effect that has no place yet says so; one that has gets the file.
        QSignalSpy said(&bench(), &Workbench::said);
        bench().addPreset(kept[0].path);
        QVERIFY(said.last()[0].toString().contains("save the effect first"));
        QVERIFY(window_->files().saveTo(to.filePath("mine.ember.json")));
        bench().addPreset(kept[0].path);
        QVERIFY(QFileInfo::exists(to.filePath(file)));
        QCOMPARE(std::get<KeyedMover>(find_element(effect(), bench().selection())->body).file,
                 file.toStdString());
    }

    void damaged_presets_are_no_offers_and_strange_names_are_kept() {
        const Presets presets(folder_->path() + "/presets");
        QVERIFY(!presets.keepStart(effect(), "../../Up \u00fc / there", {}));
        QCOMPARE(presets.list(Presets::Kind::start).size(), size_t(1));
        QCOMPARE(presets.list(Presets::Kind::start)[0].name, QString("../../Up \u00fc / there"));
        const QString path = presets.list(Presets::Kind::start)[0].path;
        QVERIFY(path.startsWith(folder_->path()));
        QFile file(path);
        QVERIFY(file.open(QIODevice::WriteOnly | QIODevice::Truncate));
        file.write("{\"for");
        file.close();
        QVERIFY(presets.list(Presets::Kind::start).empty());
        QVERIFY(!presets.remove("/etc/hostname"));
        // Names that files cannot tell apart stay two; the same name is one.
        QVERIFY(!presets.keepStart(effect(), "Salt fog", {}));
        QVERIFY(!presets.keepStart(effect(), "salt-fog", {}));
        QVERIFY(!presets.keepStart(effect(), "Salt fog", {}));
        QCOMPARE(presets.list(Presets::Kind::start).size(), size_t(2));
    }

    void what_was_kept_and_opened_lately_is_there_to_start_from() {
        driver::answer_text("My beginning");
        driver::run(*window_, "Keep as a start...");
        const QString path = folder_->filePath("lately.ember.json");
        QVERIFY(window_->files().saveTo(path));
        QStringList sections, titles;
        for (const Offer& offer : offers_to_start(bench().presets())) {
            titles << offer.title;
            sections << offer.section;
        }
        QVERIFY(titles.contains("My beginning") && titles.contains("lately"));
        QVERIFY(titles.contains("Smoke under your hand") && titles.contains("A wall to break"));
        QVERIFY(titles.contains("Small, by night") && titles.contains("Small, by day"));
        // What was opened lately opens itself, the rest as a copy.
        bench().document().reset(starter_effect(), {});
        driver::answer_gallery("lately");
        driver::run(*window_, "New...");
        QCOMPARE(bench().document().path(), path);
        driver::answer_gallery("A wall to break");
        driver::run(*window_, "New...");
        QVERIFY(bench().document().path().isEmpty());
        QCOMPARE(effect().name, std::string("A wall to break"));
        // It runs, and a click breaks it.
        const auto broken = [&] {
            const ElementMeter* meter = bench().pictureMaker().shot().readings.find("wall");
            return meter != nullptr && meter->debris.faces_broken > 0;
        };
        QTRY_VERIFY(broken());
    }

    void edits_are_gone_back_and_forth_in_by_their_list() {
        const Parameter& strength = *holder_of(*find_element(effect(), "gravity")).find("strength");
        for (int i = 0; i < 4; ++i) {
            bench().edit(with_value(effect(), "gravity", strength, 3.0f + float(i)),
                         QString("strength %1").arg(i));
            const EffectPtr now = bench().effect();
            QVERIFY(QTest::qWaitFor([&] { return bench().pictureMaker().shot().readings.effect == now; },
                                    120000));
        }
        driver::run(*window_, "Edits...");
        auto* edits = window_->findChild<HistoryList*>();
        QVERIFY(edits != nullptr && edits->isVisible() && !edits->isModal());
        QListWidget* list = edits->list();
        QCOMPARE(list->count(), 5);
        QCOMPARE(list->currentRow(), 4);
        QCOMPARE(list->item(2)->text(), QString("strength 1"));
        QSignalSpy changed(&bench(), &Workbench::effectChanged);
        list->setCurrentRow(1);
        QCOMPARE(changed.count(), 1); // one edit, however far
        QCOMPARE(std::get<Gravity>(find_element(effect(), "gravity")->body).strength, 3.0f);
        QTest::keyClick(list, Qt::Key_Down);
        QCOMPARE(std::get<Gravity>(find_element(effect(), "gravity")->body).strength, 4.0f);
        bench().redo();
        QCOMPARE(list->currentRow(), 3);
        // An edit from here takes the place of what was behind.
        bench().edit(with_value(effect(), "gravity", strength, 1.0f), "another");
        QCOMPARE(list->count(), 5);
        QCOMPARE(list->item(4)->text(), QString("another"));
        // Pictures come once there was time to see.
        QTRY_VERIFY([&] {
            const QImage icon = list->item(4)->icon().pixmap(96, 60).toImage();
            QSet<QRgb> colours;
            for (int x = 0; x < icon.width(); ++x) {
                colours.insert(icon.pixel(x, icon.height() / 2));
            }
            return colours.size() > 5;
        }());
        QTest::keyClick(edits, Qt::Key_Escape);
        QTRY_VERIFY(window_->findChild<HistoryList*>() == nullptr);
    }

    void the_sheet_for_a_picture_keeps_the_shape_and_refuses_what_cannot_be() {
        Stage stage;
        stage.frame_shape = FrameShape::wide;
        PictureSheet sheet(stage, {900, 506}, folder_->filePath("a.png"), nullptr);
        sheet.show();
        sheet.activateWindow();
        QVERIFY(QTest::qWaitForWindowActive(&sheet));
        sheet.sizes()->setCurrentIndex(3);
        emit sheet.sizes()->activated(3);
        QCOMPARE(sheet.options().width, 1920);
        QCOMPARE(sheet.options().height, 1080);
        sheet.widthField()->setFocus();
        sheet.widthField()->selectAll();
        QTest::keyClicks(sheet.widthField(), "640");
        QTest::keyClick(sheet.widthField(), Qt::Key_Tab);
        QCOMPARE(sheet.options().height, 360);
        // Upright: the longer side is the height.
        QTest::mouseClick(sheet.shapes(), Qt::LeftButton, {}, sheet.shapes()->rectOf(4).center());
        QCOMPARE(sheet.options().height, 1920);
        QCOMPARE(sheet.options().width, 1080);
        // Formats bring their ending.
        sheet.kinds()->setCurrentIndex(3);
        emit sheet.kinds()->activated(3);
        QVERIFY(sheet.path().endsWith("a.exr") && sheet.options().is_alone);
        // A place that is not there is said before anything is drawn.
        QPushButton* save = nullptr;
        for (QPushButton* button : sheet.findChildren<QPushButton*>()) {
            save = button->text() == "Save" ? button : save;
        }
        QVERIFY(save->isEnabled());
        sheet.pathField()->setText("/nowhere/at/all.png");
        QVERIFY(!save->isEnabled());
        sheet.pathField()->setText("");
        QVERIFY(!save->isEnabled());
    }

    void the_interface_changes_its_size_while_the_effect_runs_on() {
        const uint64_t step = bench().pictureMaker().shot().readings.step;
        const double ratio = window_->devicePixelRatioF();
        // The virtual screen of the tests has room for this window at 100 % only: it says so.
        QSignalSpy said(&bench(), &Workbench::said);
        const int taken = set_interface_size(200, 10000, 10000);
        QCOMPARE(taken, 100);
        QVERIFY(window_->isVisible());
        const int larger = set_interface_size(150, 400, 300);
        QCOMPARE(larger, 150);
        QCOMPARE(interface_size(), 150);
        QTRY_VERIFY(std::abs(window_->devicePixelRatioF() - 1.5 * ratio) < 0.01);
        QVERIFY(window_->isVisible());
        // The run goes on: no step was lost, and pictures come at the new size.
        driver::wait_for_pictures(*window_, 3);
        QVERIFY(bench().pictureMaker().shot().readings.step > step);
        QTRY_COMPARE(bench().pictureMaker().shot().picture.width,
                     (QSizeF(window_->view()->size()) * 1.5 * ratio).toSize().width());
        QCOMPARE(set_interface_size(100, 400, 300), 100);
        QTRY_VERIFY(std::abs(window_->devicePixelRatioF() - ratio) < 0.01);
    }
};

QTEST_MAIN(TestKept)
#include "tst_kept.moc"
