#include "core/bake/ply.h"
#include "core/budget/machine.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/runtime/past.h"

#include <QDirIterator>
#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

using namespace ember;

namespace {

struct Outcome {
    int code;
    QString out, err;
};

Outcome outcome(const char* program, const QStringList& arguments) {
    QProcess process;
    process.start(program, arguments);
    process.waitForFinished(300000);
    return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1,
            QString::fromUtf8(process.readAllStandardOutput()),
            QString::fromUtf8(process.readAllStandardError())};
}

Outcome cli(const QStringList& arguments) {
    return outcome(EMBER_CLI, arguments);
}

} // namespace

class TestCli : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;
    QString file(const char* name) const { return folder_.filePath(QLatin1String(name)); }

  private slots:
    void run_writes_all_that_was_asked_for() {
        const Outcome run =
            cli({"run", EMBER_DEMO, "--seconds", "1", "--picture", file("p.png"), "--at", "0.5", "--size",
                 "320x200", "--particles", file("p.ply"), "--report", file("r.csv")});
        QCOMPARE(run.code, 0);
        QVERIFY(run.out.contains("Sluice Spray, seed 41: 60 steps"));
        QCOMPARE(QImage(file("p.png")).size(), QSize(320, 200));
        QFile ply(file("p.ply"));
        QVERIFY(ply.open(QIODevice::ReadOnly));
        QVERIFY(ply.readAll().contains("time 0.5"));
        QFile csv(file("r.csv"));
        QVERIFY(csv.open(QIODevice::ReadOnly));
        const auto lines = csv.readAll().trimmed().split('\n');
        QCOMPARE(lines.size(), 61);
        for (const QByteArray& line : lines) {
            QCOMPARE(line.count(','), lines[0].count(','));
        }
    }

    void an_effect_is_baked_for_other_programs() {
        const Outcome bake =
            cli({"bake", EMBER_DEMO, "--out", file("baked"), "--span", "0:0.5", "--fps", "20", "--particles",
                 "--costs", "--pictures", "png", "--sheet", "fade", "--size", "96x64"});
        QVERIFY2(bake.code == 0, qPrintable(bake.err));
        QVERIFY(bake.out.contains("10 frames") && bake.out.contains("particles: particles/%05d.ply"));
        QFile manifest(file("baked/bake.json"));
        QVERIFY(manifest.open(QIODevice::ReadOnly));
        const QJsonObject told = QJsonDocument::fromJson(manifest.readAll()).object();
        QCOMPARE(told["format"].toString(), QString("crisp-ember bake"));
        QVERIFY(told["is_complete"].toBool());
        QCOMPARE(told["frames"].toInt(), 10);
        QCOMPARE(told["seed"].toInt(), 41);
        for (const QJsonValue& each : told["files"].toArray()) {
            const QString files = each.toObject()["files"].toString().replace("%05d", "00009");
            QVERIFY2(QFile::exists(file("baked/") + files), qPrintable(files));
        }
        // The same again has nothing left to do; another one is refused, unless it is to replace the first.
        QCOMPARE(cli({"bake", EMBER_DEMO, "--out", file("baked"), "--particles"}).code, 2);
        const Outcome refused =
            cli({"bake", EMBER_DEMO, "--out", file("baked"), "--particles", "--span", "0:0.1"});
        QVERIFY(refused.err.contains("another bake"));
        QCOMPARE(
            cli({"bake", EMBER_DEMO, "--out", file("baked"), "--particles", "--span", "0:0.1", "--replace"})
                .code,
            0);
        QVERIFY(!QFile::exists(file("baked/sheet/sheet.json")));
        QCOMPARE(cli({"bake", EMBER_DEMO, "--out", file("none")}).code, 2);
        QCOMPARE(cli({"bake", EMBER_DEMO, "--out", file("none"), "--pictures", "gif"}).code, 1);
        QCOMPARE(cli({"bake", EMBER_DEMO, "--out", file("none"), "--particles", "--span", "3:1"}).code, 1);
        QCOMPARE(cli({"bake", "--out", file("none")}).code, 1);
        QCOMPARE(cli({"bake", EMBER_DEMO, "--out", "/proc/nowhere/x", "--particles"}).code, 2);
        const Outcome large =
            cli({"bake", EMBER_DEMO, "--out", file("none"), "--sheet", "none", "--size", "4096x4096"});
        QCOMPARE(large.code, 2);
        QVERIFY(large.err.contains("sheet"));
    }

    // However often it is killed: nothing half written stays, and the result is that of one that nobody
    // disturbed.
    void a_bake_that_is_killed_goes_on_to_the_same_bytes() {
        const auto arguments = [&](const char* out) {
            return QStringList{"bake",    EMBER_DEMO, "--out",       file(out), "--span",     "0:1",
                               "--fps",   "30",       "--particles", "--costs", "--pictures", "png16",
                               "--video", "h264",     "--sheet",     "none",    "--size",     "64x48"};
        };
        QCOMPARE(cli(arguments("whole")).code, 0);
        const auto files_in = [&](const char* folder) {
            std::map<QString, QByteArray> files;
            const QString root = file(folder);
            for (QDirIterator each(root, QDir::Files, QDirIterator::Subdirectories); each.hasNext();) {
                QFile one(each.next());
                files[one.fileName().mid(root.size())] =
                    one.open(QIODevice::ReadOnly) ? one.readAll() : QByteArray();
            }
            return files;
        };
        bool was_killed = false;
        for (size_t wanted = 2; wanted < 60; wanted += 9) {
            QProcess process;
            process.start(EMBER_CLI, arguments("killed"));
            while (!process.waitForFinished(5) && files_in("killed").size() < wanted) {
            }
            was_killed = was_killed || process.state() != QProcess::NotRunning;
            process.kill();
            process.waitForFinished();
        }
        QVERIFY(was_killed);
        QCOMPARE(cli(arguments("killed")).code, 0);
        const auto expected = files_in("whole"), found = files_in("killed");
        QCOMPARE(found.size(), expected.size());
        for (const auto& [name, bytes] : expected) {
            const bool is_measured = name == "/costs.csv"; // milliseconds
            QVERIFY2(found.contains(name) && (is_measured || found.at(name) == bytes), qPrintable(name));
        }
    }

    void budgets_are_checked_with_reports_and_exit_codes() {
        Effect effect = *read_effect(EMBER_DEMO).effect;
        effect.budget.frame_ms = 5000;
        const auto write = [&](const char* name) {
            QFile out(file(name));
            return out.open(QIODevice::WriteOnly) && out.write(effect_text(effect).c_str()) > 0;
        };
        QVERIFY(write("within.ember.json"));
        effect.budget.particles = 100;
        QVERIFY(write("over.ember.json"));
        const QStringList small = {"--size", "160x100", "--span", "0:0.5"};
        const auto check = [&](const QStringList& what) {
            return cli(QStringList{"check-budget"} + what + small);
        };
        const Outcome within = check({file("within.ember.json"), "--report", file("b.json")});
        QVERIFY2(within.code == 0, qPrintable(within.err));
        QVERIFY(within.out.contains("within") && within.out.contains("Particles"));
        const Outcome over =
            check({file("within.ember.json"), file("over.ember.json"), "--seeds", "2", "--report",
                   file("b.xml"), "--page", file("b.html"), "--before", file("b.json")});
        QCOMPARE(over.code, 3);
        QVERIFY(over.out.contains("over"));
        QFile xml(file("b.xml")), page(file("b.html"));
        QVERIFY(xml.open(QIODevice::ReadOnly) && page.open(QIODevice::ReadOnly));
        QCOMPARE(xml.readAll().count("<failure"), 1);
        const QByteArray html = page.readAll();
        QVERIFY(html.contains("1 of 2 over") && html.contains("grown by") && !html.contains("<script"));
        // Bad input.
        QCOMPARE(check({file("none.json")}).code, 2);
        QCOMPARE(check({file("within.ember.json"), "--before", file("b.xml")}).code, 2);
        QCOMPARE(check({file("within.ember.json"), "--report", file("b.txt")}).code, 1);
        QCOMPARE(check({file("within.ember.json"), "--report", "/nowhere/b.json"}).code, 2);
        for (const char* span : {"1", "2:1", "a:b", "0:nan", "-1:2", ":"}) {
            QCOMPARE(cli({"check-budget", file("within.ember.json"), "--span", span}).code, 1);
        }
        effect.stage.length = 2;
        QVERIFY(write("short.ember.json"));
        const Outcome longer = cli({"check-budget", file("short.ember.json"), "--span", "0:5"});
        QVERIFY(longer.code == 2 && longer.err.contains("ends at 2 s"));
    }

    void what_things_are_worth_is_told() {
        const Outcome worth = cli({"worth", EMBER_DEMO, "--span", "0:0.3", "--rounds", "1", "--size",
                                   "160x100", "--report", file("w.csv")});
        QVERIFY2(worth.code == 0, qPrintable(worth.err));
        QVERIFY(worth.out.contains("Spray jet") && worth.out.contains("picture changes"));
        QFile csv(file("w.csv"));
        QVERIFY(csv.open(QIODevice::ReadOnly));
        QCOMPARE(csv.readAll().count('\n'), worth.out.count('\n') - 1);
        QCOMPARE(cli({"worth", EMBER_DEMO, "--rounds", "0"}).code, 1);
    }

    void an_effect_is_fitted_to_its_budget() {
        Effect effect = *read_effect(EMBER_DEMO).effect;
        effect.budget.frame_ms = 5000;
        effect.budget.particles = 3000;
        QFile out(file("wide.ember.json"));
        QVERIFY(out.open(QIODevice::WriteOnly) && out.write(effect_text(effect).c_str()) > 0);
        out.close();
        const QStringList small = {"--size", "160x100", "--span", "0:1"};
        const Outcome fit =
            cli(QStringList{"fit", file("wide.ember.json"), "--out", file("fitted.ember.json")} + small);
        QVERIFY2(fit.code == 0, qPrintable(fit.err));
        QVERIFY(fit.out.contains("It holds") && fit.out.contains("Spray jet: Rate"));
        const Outcome again = cli(QStringList{"check-budget", file("fitted.ember.json")} + small);
        QVERIFY2(again.code == 0, qPrintable(again.out));
        const Outcome cannot =
            cli(QStringList{"fit", file("wide.ember.json"), "--number", "mist.rate=1"} + small);
        QCOMPARE(cannot.code, 3);
        QVERIFY(cannot.out.contains("does not fit"));
        for (const char* wrong :
             {"mist.rate", "mist.rate=x", "mist.rate=-5", "nobody.rate=1", "mist.shape=1"}) {
            QCOMPARE(cli({"fit", file("wide.ember.json"), "--number", wrong}).code, 2);
        }
    }

    void costs_are_predicted_from_profiles() {
        const auto write = [&](const char* name, double ms) {
            QFile out(file(name));
            MachineProfile profile{"Box", "made up", 2, {}};
            profile.ms.fill(ms);
            return out.open(QIODevice::WriteOnly) && out.write(text_of(profile).c_str()) > 0;
        };
        QVERIFY(write("here.profile.json", 1) && write("slow.profile.json", 100000));
        const QStringList small = {"--size", "160x100", "--span",
                                   "0:0.3",  "--here",  file("here.profile.json")};
        const Outcome slow =
            cli(QStringList{"check-budget", EMBER_DEMO, "--profile", file("slow.profile.json")} + small);
        QCOMPARE(slow.code, 3);
        QVERIFY(slow.out.contains("Predicted for Box"));
        QFile damaged(file("no.profile.json"));
        QVERIFY(damaged.open(QIODevice::WriteOnly) && damaged.write("{}") > 0);
        damaged.close();
        QCOMPARE(
            cli(QStringList{"check-budget", EMBER_DEMO, "--profile", file("no.profile.json")} + small).code,
            2);
        QCOMPARE(cli({"measure", "--out", file("m.txt")}).code, 1);
    }

    void a_take_is_run_again() {
        Take take;
        take.name = "calm";
        take.effects[0] = std::make_shared<const Effect>(*read_effect(EMBER_DEMO).effect);
        take.inputs = InputLog(1.0 / 60);
        for (uint64_t step = 0; step < 45; ++step) {
            take.inputs.add(step, {});
        }
        Take turned = take;
        turned.name = "turned";
        turned.effects[20] = std::make_shared<const Effect>(with_muted(*take.effects[0], "gravity", true));
        QVERIFY(!save_takes({turned, take}, file("e.takes.json").toStdString()));
        const auto particles = [this](const QStringList& what) {
            const Outcome run = cli(QStringList{"run"} + what + QStringList{"--particles", file("t.ply")});
            QFile ply(file("t.ply"));
            return run.code == 0 && ply.open(QIODevice::ReadOnly) ? ply.readAll() : run.err.toUtf8();
        };
        // As long as it was, the last of the file, or the one that is named.
        const QByteArray plain = particles({EMBER_DEMO, "--frames", "45"});
        QVERIFY(plain.contains("ply"));
        QVERIFY(particles({"--take", file("e.takes.json")}) == plain);
        const QByteArray other =
            particles({"--take", file("e.takes.json"), "--take-name", "turned", "--threads", "1"});
        QVERIFY(other.contains("ply") && other != plain);
        const Outcome wrong = cli({"run", "--take", file("e.takes.json"), "--take-name", "wild"});
        QVERIFY(wrong.code != 0);
        QVERIFY2(wrong.err.contains("turned, calm"), qPrintable(wrong.err));
        QVERIFY(cli({"run", "--take", EMBER_DEMO}).err.contains("takes"));
        QVERIFY(cli({"run"}).err.contains("--take"));
        QCOMPARE(cli({"run", EMBER_DEMO, "--take", file("e.takes.json")}).code, 1);
    }

    // What people did reaches it, and so do the files of what was edited on the way.
    void a_take_with_people_ends_as_it_did() {
        Effect effect = *read_effect(EMBER_DEMO).effect;
        Trigger bursts;
        bursts.when = TriggerWhen::key;
        bursts.what = std::find_if(effect.elements.begin(), effect.elements.end(), [](const Element& each) {
                          return std::holds_alternative<Emitter>(each.body);
                      })->id;
        effect.elements.push_back({.id = "bursts", .name = "Bursts", .body = bursts});
        Simulation simulation;
        simulation.set_effect(std::make_shared<const Effect>(effect));
        Past past;
        for (uint64_t step = 0; step < 200; ++step) {
            if (step == 90) {
                simulation.set_effect(
                    std::make_shared<const Effect>(with_muted(effect, effect.elements[1].id, true)));
            }
            StepInputs inputs;
            inputs.pointer = PointerRay{{float(step) * 0.01f - 1, 1, 4}, {0, 0, -1}};
            inputs.clicks = step % 50 == 0 ? 1 : 0;
            inputs.keys = step % 60 == 20 ? std::vector<int>{1} : std::vector<int>();
            past.note(simulation, inputs);
            simulation.step(inputs);
        }
        QVERIFY(!write_ply(simulation, file("here.ply").toStdString()));
        Take take = *past.take(simulation);
        take.name = "played";
        QVERIFY(!save_takes({take}, file("p.takes.json").toStdString()));
        const auto bytes_of = [&](const char* name) {
            QFile ply(file(name));
            return ply.open(QIODevice::ReadOnly) ? ply.readAll() : QByteArray();
        };
        const Outcome run = cli({"run", "--take", file("p.takes.json"), "--particles", file("there.ply")});
        QVERIFY2(run.code == 0, qPrintable(run.err));
        QVERIFY(bytes_of("here.ply").size() > 10000);
        QVERIFY(bytes_of("there.ply") == bytes_of("here.ply"));
        // An effect that was edited away needs its files, too.
        Effect other = effect;
        KeyedMover mover;
        mover.file = "gone.csv";
        other.elements.push_back({.id = "way", .name = "Way", .body = mover});
        take.effects[0] = std::make_shared<const Effect>(other);
        take.effects[1] = std::make_shared<const Effect>(effect);
        QVERIFY(!save_takes({take}, file("p.takes.json").toStdString()));
        const Outcome refused = cli({"run", "--take", file("p.takes.json")});
        QCOMPARE(refused.code, 2);
        QVERIFY2(refused.err.contains("gone.csv"), qPrintable(refused.err));
    }

    void what_lies_before_from_is_stepped_and_not_measured() {
        const Outcome run = cli({"run", EMBER_DEMO, "--from", "0.5", "--seconds", "0.25", "--report",
                                 file("f.csv"), "--particles", file("f.ply")});
        QCOMPARE(run.code, 0);
        QFile csv(file("f.csv"));
        QVERIFY(csv.open(QIODevice::ReadOnly));
        const auto lines = csv.readAll().trimmed().split('\n');
        QCOMPARE(lines.size(), 1 + 15);
        QVERIFY(lines[1].startsWith("0.51"));
        QFile ply(file("f.ply"));
        QVERIFY(ply.open(QIODevice::ReadOnly));
        QVERIFY(ply.readAll().contains("time 0.75"));
    }

    void an_effect_that_has_a_length_is_run_to_its_end() {
        Effect effect = *read_effect(EMBER_DEMO).effect;
        effect.stage.length = 0.75f;
        QVERIFY(!save_effect(effect, file("short.ember.json").toStdString()));
        const auto steps = [this](const QStringList& more) {
            return cli(QStringList{"run", file("short.ember.json")} + more).out.section('\n', 0, 0);
        };
        QVERIFY2(steps({}).contains("45 steps"), qPrintable(steps({})));
        QVERIFY(steps({"--from", "0.5"}).contains("15 steps"));
        QVERIFY(steps({"--frames", "50"}).contains("50 steps"));  // what is asked for goes first
        QVERIFY(steps({"--from", "0.75"}).contains("600 steps")); // behind it, as if it had none
    }

    void json_report_can_be_read() {
        QCOMPARE(cli({"run", EMBER_DEMO, "--frames", "30", "--report", file("r.json"), "--seed", "7"}).code,
                 0);
        QFile json(file("r.json"));
        QVERIFY(json.open(QIODevice::ReadOnly));
        const QJsonObject report = QJsonDocument::fromJson(json.readAll()).object();
        QCOMPARE(report["seed"].toInt(), 7);
        QCOMPARE(report["steps"].toArray().size(), 30);
        QVERIFY(report["summary"].toObject()["particles_most"].toInt() > 3000);
    }

    void same_seed_gives_the_same_file_on_any_number_of_threads() {
        for (const char* threads : {"1", "2"}) {
            QCOMPARE(cli({"run", EMBER_DEMO, "--seconds", "2", "--threads", threads, "--particles",
                          file(threads) + ".ply"})
                         .code,
                     0);
        }
        QFile one(file("1.ply")), two(file("2.ply"));
        QVERIFY(one.open(QIODevice::ReadOnly) && two.open(QIODevice::ReadOnly));
        QVERIFY(one.readAll() == two.readAll());
    }

    void set_changes_any_parameter() {
        const Outcome none = cli({"run", EMBER_DEMO, "--frames", "60", "--set", "spray-jet.rate=0", "--set",
                                  "sheet.rate=0", "--set", "mist.rate=0"});
        QCOMPARE(none.code, 0);
        QVERIFY(none.out.contains("particles at most 0,"));
        QCOMPARE(cli({"run", EMBER_DEMO, "--frames", "1", "--set", "spray-jet.shape=ball", "--set",
                      "stage.exposure=1.5", "--set", "droplets.glow=3", "--set", "spray-jet.speed=[1, 2]"})
                     .code,
                 0);
    }

    void wrong_settings_say_what_is_expected_data() {
        QTest::addColumn<QString>("setting");
        QTest::addColumn<QString>("said");
        QTest::newRow("no element") << "spry-jet.rate=5"
                                    << "the id of an element";
        QTest::newRow("no parameter") << "spray-jet.rte=5"
                                      << "rate";
        QTest::newRow("not a number") << "spray-jet.rate=nan"
                                      << "a number from 0";
        QTest::newRow("infinite") << "spray-jet.rate=1e999"
                                  << "a number from 0";
        QTest::newRow("negative") << "spray-jet.rate=-1"
                                  << "a number from 0";
        QTest::newRow("no value") << "spray-jet.rate"
                                  << "ELEMENT.PARAMETER=VALUE";
    }
    void wrong_settings_say_what_is_expected() {
        QFETCH(QString, setting);
        QFETCH(QString, said);
        const Outcome run = cli({"run", EMBER_DEMO, "--frames", "1", "--set", setting});
        QCOMPARE(run.code, 2);
        QVERIFY2(run.err.contains(said), qPrintable(run.err));
    }

    void wrong_usage_is_exit_code_one_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::newRow("nothing") << QStringList();
        QTest::newRow("unknown command") << QStringList{"explode"};
        QTest::newRow("no effect") << QStringList{"run"};
        QTest::newRow("negative time") << QStringList{"run", EMBER_DEMO, "--seconds", "-1"};
        QTest::newRow("not a time") << QStringList{"run", EMBER_DEMO, "--seconds", "nan"};
        QTest::newRow("endless") << QStringList{"run", EMBER_DEMO, "--seconds", "inf"};
        QTest::newRow("size") << QStringList{"run", EMBER_DEMO, "--size", "0x5"};
        QTest::newRow("huge size") << QStringList{"run", EMBER_DEMO, "--size", "99999x99999"};
        QTest::newRow("backend") << QStringList{"run", EMBER_DEMO, "--backend", "abacus"};
        QTest::newRow("report") << QStringList{"run", EMBER_DEMO, "--report", "r.doc"};
        QTest::newRow("type") << QStringList{"describe", "unicorn"};
    }
    void wrong_usage_is_exit_code_one() {
        QFETCH(QStringList, arguments);
        const Outcome run = cli(arguments);
        QCOMPARE(run.code, 1);
        QVERIFY(!run.err.isEmpty());
    }

    void bad_input_is_exit_code_two() {
        QCOMPARE(cli({"run", "/nowhere.ember.json"}).code, 2);
        QCOMPARE(cli({"run", EMBER_DEMO, "--frames", "10", "--at", "5"}).code, 2);
        QCOMPARE(cli({"run", EMBER_DEMO, "--frames", "1", "--picture", "/proc/nowhere/p.png"}).code, 2);
    }

    void check_lists_every_problem() {
        QCOMPARE(cli({"check", EMBER_DEMO}).code, 0);
        QFile demo(EMBER_DEMO);
        QVERIFY(demo.open(QIODevice::ReadOnly));
        QByteArray text = demo.readAll();
        text.replace("\"rate\": 11000", "\"rate\": -1")
            .replace("\"mist\": 0.03", "\"fog\": 0.03")
            .replace("\"seed\": 41", "\"seed\": 0.5");
        QFile broken(file("broken.ember.json"));
        QVERIFY(broken.open(QIODevice::WriteOnly));
        broken.write(text);
        broken.close();
        const Outcome check = cli({"check", broken.fileName()});
        QCOMPARE(check.code, 2);
        QCOMPARE(check.err.trimmed().split('\n').size(), 3);
        QVERIFY(check.err.contains("/elements/0/parameters/rate: found -1, expected a number from 0"));
    }

    void over_budget_is_exit_code_three_only_if_enforced() {
        const QStringList tight = {"run", EMBER_DEMO, "--seconds", "0.5", "--set", "budget.particles=100"};
        const Outcome lenient = cli(tight);
        QCOMPARE(lenient.code, 0);
        QVERIFY(lenient.out.contains("over budget: particles"));
        QCOMPARE(cli(tight + QStringList{"--enforce"}).code, 3);
        QCOMPARE(
            cli({"run", EMBER_DEMO, "--seconds", "0.5", "--enforce", "--set", "budget.frame_ms=10000"}).code,
            0);
    }

    void describe_tells_every_parameter() {
        const Outcome one = cli({"describe", "turbulence"});
        QCOMPARE(one.code, 0);
        QVERIFY(one.out.contains("eddy_size = 0.8") && !one.out.contains("gravity"));
        const Outcome all = cli({"describe"});
        for (const char* key : {"emitter", "gravity", "look", "stage", "budget", "bloom_radius"}) {
            QVERIFY(all.out.contains(key));
        }
    }

    void what_cannot_be_written_is_refused_before_the_run_data() {
        QTest::addColumn<QStringList>("arguments");
        QTest::addColumn<int>("code");
        QTest::addColumn<QString>("says");
        const auto row = [](const char* name, const QStringList& arguments, int code, const char* says) {
            QTest::newRow(name) << arguments << code << QString(says);
        };
        row("a film", {"--picture", "p.mp4"}, 1, ".png or .exr");
        row("JPEG", {"--picture", "p.jpg"}, 1, ".png or .exr");
        row("capitals", {"--picture", "p.EXR"}, 1, ".png or .exr");
        row("a table of particles", {"--particles", "x.csv"}, 1, ".ply");
        row("numbered", {"--picture", "p-%04d.png"}, 1, "one file");
        row("no folder", {"--picture", "/no/such/folder/p.png"}, 2, "no such folder");
        row("one path twice", {"--picture", "same.png", "--report", "./same.png"}, 1, ".csv");
    }
    void what_cannot_be_written_is_refused_before_the_run() {
        QFETCH(QStringList, arguments);
        QFETCH(int, code);
        QFETCH(QString, says);
        const Outcome run = cli(QStringList{"run", EMBER_DEMO, "--seconds", "86400"} + arguments);
        QCOMPARE(run.code, code);
        QVERIFY2(run.err.contains(says), qPrintable(run.err));
    }

    void no_output_overwrites_an_input_or_another() {
        QFile::copy(EMBER_DEMO, file("own.ember.json"));
        QVERIFY(QFile::link(file("own.ember.json"), file("link.csv")));
        QFile before(file("own.ember.json"));
        QVERIFY(before.open(QIODevice::ReadOnly));
        const QByteArray text = before.readAll();
        const Outcome run =
            cli({"run", file("own.ember.json"), "--frames", "2", "--report", file("link.csv")});
        QCOMPARE(run.code, 2);
        QVERIFY2(run.err.contains("the effect"), qPrintable(run.err));
        QFile after(file("own.ember.json"));
        QVERIFY(after.open(QIODevice::ReadOnly));
        QCOMPARE(after.readAll(), text);
    }

    void links_and_devices_are_written_through() {
        QFile target(file("target.csv"));
        QVERIFY(target.open(QIODevice::WriteOnly));
        target.close();
        QVERIFY(QFile::link(file("target.csv"), file("through.csv")));
        QCOMPARE(cli({"run", EMBER_DEMO, "--frames", "2", "--report", file("through.csv")}).code, 0);
        QVERIFY(QFileInfo(file("through.csv")).isSymLink());
        QVERIFY(QFileInfo(file("target.csv")).size() > 100);
        QCOMPARE(cli({"run", EMBER_DEMO, "--frames", "2", "--report", "/dev/null"}).code, 0);
        QVERIFY(!QFileInfo("/dev/null").isFile());
        QVERIFY(cli({"run", EMBER_DEMO, "--frames", "2", "--report", "/dev/full"}).code == 2);
    }

    void a_signal_leaves_no_part_of_a_file() {
        QProcess process;
        process.start(EMBER_CLI, {"run", EMBER_DEMO, "--seconds", "86400", "--report", file("long.csv")});
        const auto parts = [&] { return QDir(folder_.path()).entryList({"*.part*"}); };
        QTRY_VERIFY(!parts().isEmpty());
        process.terminate();
        QVERIFY(process.waitForFinished(300000));
        QCOMPARE(parts(), QStringList());
        QVERIFY(!QFileInfo::exists(file("long.csv")));
    }

    void the_window_refuses_words_it_does_not_know() {
        const QStringList demo = {"--demo", "--picture", file("window.png")};
        const Outcome name = outcome(EMBER_WINDOW, demo + QStringList{"--demo-effect", "Salt Stack"});
        QCOMPARE(name.code, 1);
        QVERIFY2(name.err.contains("--demo-effect: found Salt Stack, expected one of brine-shoal"),
                 qPrintable(name.err));
        QCOMPARE(outcome(EMBER_WINDOW, demo + QStringList{"--lens", "fog"}).code, 1);
        QCOMPARE(outcome(EMBER_WINDOW, demo + QStringList{"--after", "nan"}).code, 1);
        QVERIFY(!QFileInfo::exists(file("window.png")));
    }

    // All but the last second of what played is there.
    void a_window_that_is_killed_leaves_its_run() {
        QTemporaryDir home;
        QProcess window;
        QProcessEnvironment environment = QProcessEnvironment::systemEnvironment();
        environment.insert("HOME", home.path());
        environment.insert("XDG_DATA_HOME", home.path());
        environment.insert("XDG_CONFIG_HOME", home.path());
        window.setProcessEnvironment(environment);
        window.start(EMBER_WINDOW, {"--demo"});
        QVERIFY(window.waitForStarted());
        const auto run = [&] {
            QDirIterator each(home.path(), {"*.run.json"}, QDir::Files, QDirIterator::Subdirectories);
            const ReadTakes read = each.hasNext() ? read_takes(each.next().toStdString()) : ReadTakes();
            return read.takes.empty() ? uint64_t(0) : read.takes.front().steps();
        };
        QTRY_VERIFY(run() > 120);
        window.kill();
        QVERIFY(window.waitForFinished());
        QVERIFY(run() > 120);
    }

    void a_full_standard_output_is_no_success() {
        QProcess process;
        process.setStandardOutputFile("/dev/full");
        process.start(EMBER_CLI, {"run", EMBER_DEMO, "--frames", "2"});
        QVERIFY(process.waitForFinished(300000));
        QCOMPARE(process.exitCode(), 2);
    }

    void notes_name_what_was_hardly_meant() {
        QFile text(file("notes.ember.json"));
        QVERIFY(text.open(QIODevice::WriteOnly));
        text.write(R"({"format": "crisp-ember effect", "version": 1, "looks": [{"id": "dots"}],
"elements": [
  {"id": "e", "type": "emitter", "parameters": {"raet": 5, "look": "dots", "rate": 4, "rate": 6}}
]})");
        text.close();
        const Outcome check = cli({"check", file("notes.ember.json")});
        QCOMPARE(check.code, 0);
        QVERIFY2(check.err.contains("raet") && check.err.contains("\"rate\""), qPrintable(check.err));
        QVERIFY2(check.err.contains("a second \"rate\"") && check.err.contains(":3:"), qPrintable(check.err));
    }

    void refusals_have_a_line_and_name_both_of_two() {
        QFile text(file("lines.ember.json"));
        QVERIFY(text.open(QIODevice::WriteOnly));
        text.write(
            R"({"format": "crisp-ember effect", "version": 0, "looks": [{"id": "same", "name": "Sparks"}],
"elements": [
  {"id": "same", "type": "emitter"},
  {"type": "emitter"},
  {"id": "x"}
]})");
        text.close();
        const Outcome check = cli({"check", file("lines.ember.json")});
        QCOMPARE(check.code, 2);
        QVERIFY2(check.err.contains(":4:") && check.err.contains(":5:"), qPrintable(check.err));
        QVERIFY2(check.err.contains("the look \"Sparks\""), qPrintable(check.err));
        QVERIFY2(!check.err.contains("newer"), qPrintable(check.err));
    }

    void large_input_is_refused_soon() {
        QFile many(file("many.ember.json"));
        QVERIFY(many.open(QIODevice::WriteOnly));
        many.write("{\"format\": \"crisp-ember effect\"");
        for (int i = 0; i < 80000; ++i) {
            many.write(", \"m" + QByteArray::number(i) + "\": 0");
        }
        many.write("}");
        many.close();
        QVERIFY(cli({"check", file("many.ember.json")}).err.contains("members in one object"));
        QFile zeros(file("zeros.ember.json"));
        QVERIFY(zeros.open(QIODevice::WriteOnly));
        zeros.write("[" + QByteArray("0,").repeated(8 << 20) + "0]");
        zeros.close();
        QVERIFY(cli({"check", file("zeros.ember.json")}).err.contains("values"));
        // A wall of a billion blocks, by its numbers alone.
        QFile wall(file("wall.ember.json"));
        QVERIFY(wall.open(QIODevice::WriteOnly));
        wall.write(
            R"({"format": "crisp-ember effect", "version": 1, "looks": [], "elements": [{"id": "w", "type":
"breakable", "parameters": {"pattern": "courses", "size": [1000, 1000, 1000], "block": [0.3, 0.3, 0.3]}}]})");
        wall.close();
        QVERIFY(cli({"check", file("wall.ember.json")}).err.contains("larger blocks"));
    }

    void an_emitter_without_a_look_takes_the_default_one() {
        QFile text(file("plain.ember.json"));
        QVERIFY(text.open(QIODevice::WriteOnly));
        text.write(R"({"format": "crisp-ember effect", "version": 1, "looks": [],
"elements": [{"id": "e", "type": "emitter"}]})");
        text.close();
        QCOMPARE(cli({"run", file("plain.ember.json"), "--frames", "30"}).code, 0);
    }

    // A table with a line for each seed, and a sheet with a picture of each: the first is what run draws.
    void seeds_lie_side_by_side() {
        const Outcome seeds = cli({"seeds", EMBER_DEMO, "--count", "5", "--at", "1", "--sheet", file("s.png"),
                                   "--size", "160x100"});
        QCOMPARE(seeds.code, 0);
        const QStringList lines = seeds.out.split('\n', Qt::SkipEmptyParts);
        QCOMPARE(lines.size(), 6);
        for (int i = 0; i < 5; ++i) {
            const QStringList words = lines[i + 1].split(' ', Qt::SkipEmptyParts);
            QCOMPARE(words.size(), 6);
            QCOMPARE(words[0].toInt(), 41 + i); // the effect's own is 41
            QVERIFY(words[1].toDouble() > 0 && words[2].toDouble() <= 1.01);
            QVERIFY(words[3].toInt() >= words[4].toInt() && words[4].toInt() > 1000);
        }
        const QImage sheet(file("s.png"));
        QCOMPARE(sheet.size(), QSize(3 * 164 - 4, 2 * 104 - 4));
        QCOMPARE(cli({"run", EMBER_DEMO, "--seconds", "1", "--picture", file("one.png"), "--size", "160x100"})
                     .code,
                 0);
        const QImage one = QImage(file("one.png")).convertToFormat(QImage::Format_RGB32);
        const auto at = [&](int column, int row) {
            return sheet.copy(column * 164, row * 104, 160, 100).convertToFormat(QImage::Format_RGB32);
        };
        QCOMPARE(at(0, 0), one);
        QVERIFY(at(1, 0) != one && at(2, 0) != at(1, 0) && at(0, 1) != at(1, 1));

        // What breaks is cut by the seed: it is there with each.
        const Outcome stack = cli({"seeds", EMBER_SOURCE_DIR "/demo/saltworks/salt-stack.ember.json",
                                   "--count", "3", "--at", "0.5"});
        for (const QString& line : stack.out.split('\n', Qt::SkipEmptyParts).mid(1)) {
            QVERIFY2(line.split(' ', Qt::SkipEmptyParts)[5].toInt() > 100, qPrintable(stack.out));
        }
        QCOMPARE(cli({"seeds", EMBER_DEMO, "--count", "400", "--size", "2048x2048", "--sheet", file("s.png")})
                     .code,
                 2);
        QCOMPARE(cli({"seeds", EMBER_DEMO, "--count", "0"}).code, 1);
        QCOMPARE(cli({"seeds", EMBER_DEMO, "--sheet", file("s.jpg")}).code, 1);
        QCOMPARE(cli({"seeds", EMBER_DEMO, "--sheet", file("no/such/folder.png")}).code, 2);
    }

    void set_mutes() {
        const Outcome muted = cli({"run", EMBER_DEMO, "--frames", "60", "--set", "spray-jet.muted=true",
                                   "--set", "sheet.muted=true", "--set", "mist.muted=true"});
        QCOMPARE(muted.code, 0);
        QVERIFY(muted.out.contains("particles at most 0,"));
    }
};

QTEST_GUILESS_MAIN(TestCli)
#include "tst_cli.moc"
