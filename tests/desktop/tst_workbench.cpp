// The workbench without a window: edits, what reaches the player, and going through time.
#include "desktop/workbench/workbench.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"

#include <QSignalSpy>
#include <QTemporaryDir>
#include <QtTest>

using namespace ember;

namespace {

// Until a picture shows what is wanted.
bool is_shown(Workbench& bench, const std::function<bool(const Readings&)>& wanted) {
    QSignalSpy shown(&bench, &Workbench::shown);
    for (QElapsedTimer waited =
             [] {
                 QElapsedTimer timer;
                 timer.start();
                 return timer;
             }();
         waited.elapsed() < patient_ms;) {
        if (wanted(bench.pictureMaker().shot().readings)) {
            return true;
        }
        shown.wait(200);
    }
    return false;
}

} // namespace

class TestWorkbench : public QObject {
    Q_OBJECT

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        bench_ = std::make_unique<Workbench>(folder_->path());
        bench_->pictureMaker().setSize({160, 100});
        bench_->document().reset(*read_effect(EMBER_DEMO).effect, {},
                                 QStringLiteral(EMBER_SOURCE_DIR "/demo/saltworks"));
    }
    void cleanup() {
        bench_.reset();
        folder_.reset();
    }

    // Whoever saves a mesh in another program sees it here, and is told.
    void files_that_change_on_disk_are_read_again() {
        const auto write_keys = [&](const char* text) {
            // As programs do it: another file in place of the old one.
            QFile file(folder_->filePath("way.new"));
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(text);
            file.close();
            QFile::remove(folder_->filePath("way.csv"));
            QVERIFY(QFile::rename(folder_->filePath("way.new"), folder_->filePath("way.csv")));
        };
        write_keys("0, 1, 2, 3\n");
        KeyedMover mover;
        mover.file = "way.csv";
        Effect effect = starter_effect();
        effect.elements.push_back({.id = "way", .name = "Way", .body = mover});
        const QString path = folder_->filePath("it.ember.json");
        QVERIFY(!save_effect(effect, path.toStdString()));
        bench_->document().reset(effect, path, folder_->path());
        bench_->setPlaying(true);
        const auto stands_at = [&](float x) {
            return is_shown(*bench_, [&](const Readings& readings) {
                return !readings.placements.empty() &&
                       std::abs(readings.placements.back().position.x - x) < 1e-4f;
            });
        };
        const size_t at = bench_->effect()->elements.size() - 1;
        QCOMPARE(bench_->effect()->elements[at].id, std::string("way"));
        QVERIFY(stands_at(1));
        QSignalSpy said(bench_.get(), &Workbench::said);
        for (const auto& [text, x] : {std::pair("0, 5, 2, 3\n", 5.0f), std::pair("0, 7, 2, 3\n", 7.0f)}) {
            said.clear();
            write_keys(text);
            QVERIFY(stands_at(x));
            QVERIFY(!said.isEmpty());
            QVERIFY(said.back()[0].toString().contains("way.csv"));
        }
    }

    // What plays is written along; left behind without a lock, as by a program that was killed, it is a take.
    void a_run_is_not_lost_with_the_program() {
        const QString saved = folder_->filePath("spray.ember.json");
        QVERIFY(!bench_->document().save(saved));
        const QString written = bench_->runWriter().file();
        bench_->setPlaying(true);
        const auto steps = [](const QString& file) {
            const ReadTakes read = QFile::exists(file) ? read_takes(file.toStdString()) : ReadTakes();
            return read.takes.empty() ? uint64_t(0) : read.takes.front().steps();
        };
        QTRY_VERIFY(steps(written) > 60);
        bench_->setPlaying(false);
        const QString left = folder_->filePath("run-of-another.run.json");
        QVERIFY(QFile::copy(written, left));
        QFile origin(folder_->filePath("run-of-another.origin"));
        QVERIFY(origin.open(QIODevice::WriteOnly) && origin.write(saved.toUtf8()) > 0);
        origin.close();
        const uint64_t kept = steps(left);
        bench_->bringLostRuns();
        QVERIFY(!QFile::exists(left) && QFile::exists(written)); // that of a program that lives is its own
        const std::vector<Take> takes = bench_->takes();
        QCOMPARE(takes.size(), size_t(1));
        QCOMPARE(takes[0].steps(), kept);
        QVERIFY(takes[0].name.find("before the program ended") != std::string::npos);
        // Of an effect without a file it lies by itself; a damaged one takes nothing along.
        QVERIFY(QFile::copy(written, left));
        bench_->bringLostRuns();
        QCOMPARE(read_takes(folder_->filePath("lost-runs.takes.json").toStdString()).takes.size(), size_t(1));
        QFile damaged(left);
        QVERIFY(damaged.open(QIODevice::WriteOnly) && damaged.write("{\"format\"") > 0);
        damaged.close();
        bench_->bringLostRuns();
        QCOMPARE(bench_->takes().size(), size_t(1));
        // A program that ends well leaves none.
        bench_.reset();
        QVERIFY(!QFile::exists(written));
    }

    void a_run_that_cannot_be_written_along_is_said_once() {
        QVERIFY(QFile::link("/dev/full", bench_->runWriter().file())); // a disk without room
        QSignalSpy failed(&bench_->runWriter(), &RunWriter::failed);
        QSignalSpy said(bench_.get(), &Workbench::said);
        bench_->setPlaying(true);
        QVERIFY(failed.wait(patient_ms));
        QVERIFY2(failed[0][0].toString().contains("No space"), qPrintable(failed[0][0].toString()));
        const auto is_said = [](const auto& each) { return each[0].toString().contains("written along"); };
        QTRY_COMPARE(std::count_if(said.begin(), said.end(), is_said), 1);
        // It plays on.
        const double then_s = bench_->pictureMaker().shot().readings.time_s;
        QVERIFY(is_shown(*bench_, [&](const Readings& readings) { return readings.time_s > then_s + 1.5; }));
        QCOMPARE(failed.size(), 1);
    }

    // A take begins with the files that its effects need, those of effects that were edited away too; without
    // one that is gone it plays all the same, and the element says so.
    void a_take_begins_once_its_files_are_there() {
        QFile file(folder_->filePath("way.csv"));
        QVERIFY(file.open(QIODevice::WriteOnly) && file.write("0, 1, 2, 3\n") > 0);
        file.close();
        QVERIFY(!bench_->document().save(folder_->filePath("it.ember.json")));
        const Effect plain = *bench_->effect();
        const auto with_mover = [&](const char* name) {
            KeyedMover mover;
            mover.file = name;
            Effect effect = plain;
            effect.elements.push_back({.id = "way", .name = "Way", .body = mover});
            return std::make_shared<const Effect>(effect);
        };
        Take take;
        take.name = "with files";
        take.inputs = InputLog(1.0 / 60);
        for (uint64_t step = 0; step < 3000; ++step) {
            take.inputs.add(step, {});
        }
        const auto shows_at = [&](float x) {
            return is_shown(*bench_, [&](const Readings& readings) {
                return readings.is_replayed && readings.effect->elements.size() > plain.elements.size() &&
                       std::abs(readings.placements.back().position.x - x) < 1e-4f;
            });
        };
        for (const bool is_edited_away : {true, false}) {
            take.effects = {{0, with_mover("way.csv")}};
            if (is_edited_away) {
                take.effects[2900] = std::make_shared<const Effect>(plain);
            }
            bench_->readAgain(); // nothing is there yet
            bench_->replay(take);
            QVERIFY(shows_at(1));
            bench_->goOnLive();
        }
        take.effects = {{0, with_mover("gone.csv")}};
        bench_->replay(take);
        QVERIFY(shows_at(0));
        QVERIFY2(bench_->loader().problemOf("way").contains("gone.csv"),
                 qPrintable(bench_->loader().problemOf("way")));
    }

    void what_is_edited_is_what_is_shown_and_taken_back() {
        const EffectPtr before = bench_->effect();
        QVERIFY(is_shown(*bench_, [&](const Readings& now) { return now.effect == before; }));
        QSignalSpy said(bench_.get(), &Workbench::said);
        bench_->edit(with_effect_name(*before, "Another"), "rename");
        const EffectPtr edited = bench_->effect();
        QCOMPARE(edited->name, std::string("Another"));
        QVERIFY(is_shown(*bench_, [&](const Readings& now) { return now.effect == edited; }));
        bench_->undo();
        QCOMPARE(bench_->effect()->name, before->name);
        QCOMPARE(said.last()[0].toString(), QStringLiteral("Taken back: rename"));
        QVERIFY(is_shown(*bench_, [&](const Readings& now) { return now.effect == bench_->effect(); }));
    }

    void an_edit_that_would_be_too_much_is_refused_in_words_and_changes_nothing() {
        const EffectPtr before = bench_->effect();
        Effect huge = *before;
        for (Element& element : huge.elements) {
            if (auto* emitter = std::get_if<Emitter>(&element.body)) {
                emitter->capacity = 16'000'000;
            }
        }
        while (!whole_refusal(huge)) {
            std::string id;
            huge = with_duplicate(huge, "spray", id);
        }
        QSignalSpy said(bench_.get(), &Workbench::said);
        QSignalSpy changed(bench_.get(), &Workbench::effectChanged);
        bench_->edit(huge, "too much");
        QCOMPARE(bench_->effect(), before);
        QVERIFY(said.last()[0].toString().startsWith("Not done: "));
        QCOMPARE(changed.size(), 1); // so that what shows it shows the old one again
    }

    void new_elements_are_chosen_and_gone_ones_are_not() {
        QSignalSpy chosen(bench_.get(), &Workbench::chosen);
        const size_t count = bench_->effect()->elements.size();
        bench_->add(*find_type("wind"));
        QCOMPARE(bench_->effect()->elements.size(), count + 1);
        QCOMPARE(chosen.size(), 1);
        const std::string id = bench_->selection();
        QVERIFY(std::holds_alternative<Wind>(find_element(*bench_->effect(), id)->body));
        bench_->toggleMuted({id});
        QVERIFY(find_element(*bench_->effect(), id)->muted);
        bench_->duplicate({id});
        const std::string copy = bench_->selection();
        QVERIFY(copy != id);
        bench_->addCopied(bench_->copied({id, copy}));
        QCOMPARE(bench_->effect()->elements.size(), count + 4);
        bench_->remove({copy, bench_->selection()});
        QCOMPARE(bench_->effect()->elements.size(), count + 2);
        QVERIFY(find_holder(*bench_->effect(), bench_->selection()));
    }

    void another_seed_starts_anew() {
        bench_->setPlaying(true);
        QVERIFY(is_shown(*bench_, [](const Readings& now) { return now.step > 20; }));
        bench_->setPlaying(false);
        QVERIFY(is_shown(*bench_, [&](const Readings&) { return !bench_->isPlaying(); }));
        QSignalSpy said(bench_.get(), &Workbench::said);
        bench_->setSeed(bench_->effect()->seed + 1);
        QCOMPARE(said.size(), 1);
        QVERIFY(is_shown(
            *bench_, [&](const Readings& now) { return now.effect == bench_->effect() && now.time_s == 0; }));
    }

    void a_moment_that_is_pointed_at_stands_still_until_it_is_let_go_of() {
        bench_->setPlaying(true);
        QVERIFY(is_shown(*bench_, [](const Readings& now) { return now.time_s > 0.5; }));
        bench_->goTo(0.25);
        QVERIFY(!bench_->isPlaying());
        QVERIFY(is_shown(*bench_, [](const Readings& now) { return std::abs(now.time_s - 0.25) < 1e-6; }));
        bench_->goTo(0.1);
        QVERIFY(is_shown(*bench_, [](const Readings& now) { return std::abs(now.time_s - 0.1) < 1e-6; }));
        bench_->goTo(std::nullopt);
        QVERIFY(bench_->isPlaying());
    }

    void it_can_end_at_any_time() {
        for (int i = 0; i < 5; ++i) {
            cleanup();
            init();
            bench_->setPlaying(true);
            QCoreApplication::processEvents();
        }
    }

  private:
    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<Workbench> bench_;
};

QTEST_GUILESS_MAIN(TestWorkbench)
#include "tst_workbench.moc"
