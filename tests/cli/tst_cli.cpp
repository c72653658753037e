#include <QImage>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QProcess>
#include <QTemporaryDir>
#include <QtTest>

namespace {

struct Outcome {
    int code;
    QString out, err;
};

Outcome cli(const QStringList& arguments) {
    QProcess process;
    process.start(EMBER_CLI, arguments);
    process.waitForFinished(60000);
    return {process.exitStatus() == QProcess::NormalExit ? process.exitCode() : -1,
            QString::fromUtf8(process.readAllStandardOutput()),
            QString::fromUtf8(process.readAllStandardError())};
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
            QCOMPARE(
                cli({"run", EMBER_DEMO, "--seconds", "2", "--threads", threads, "--particles", file(threads)})
                    .code,
                0);
        }
        QFile one(file("1")), two(file("2"));
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
};

QTEST_GUILESS_MAIN(TestCli)
#include "tst_cli.moc"
