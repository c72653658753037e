// What a run leaves behind: reports of its costs, and its particles as a file.
#include "core/assets/assets.h"
#include "core/bake/ply.h"
#include "core/runtime/report.h"
#include "sample_effects.h"

#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QTemporaryDir>
#include <QtTest>

#include <cstring>
#include <sstream>

using namespace ember;
using namespace ember::sample;

namespace {

// Two sources, one of them too small for its births, and a block that breaks.
Effect busy_effect() {
    Emitter full = still(600, 10);
    full.capacity = 50;
    full.speed = {1, 2};
    Emitter many = still(900, 0.5f);
    many.shape = BirthShape::ball;
    many.speed = {0.5f, 3};
    Effect effect = effect_of(full, {Gravity{}});
    effect.elements.push_back({.id = "many", .name = "Many", .body = many});
    Breakable block;
    block.position = {0, 1, 0};
    block.pieces = 12;
    block.strength = 1;
    effect.elements.push_back({.id = "block", .name = "Block", .body = block});
    effect.elements.push_back(
        {.id = "fall", .name = "Fall", .body = Gravity{.strength = 9.81f}, .links = {{"block", 1}}});
    effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{}, .links = {{"block", 1}}});
    return effect;
}

struct Noted {
    std::vector<double> times, step_ms;
    std::vector<size_t> particles, pieces, bytes;
    std::vector<std::vector<ElementMeter>> elements;
};

// Runs an effect with a report, and notes what its rows should say.
Noted reported(const Effect& effect, Report& report, int steps) {
    Simulation simulation;
    simulation.set_effect(shared(effect), AssetLibrary().load(effect, ".").assets);
    Noted noted;
    for (int i = 0; i < steps; ++i) {
        simulation.step();
        report.add(simulation);
        const Meters& meters = simulation.meters();
        noted.times.push_back(simulation.time_s());
        noted.step_ms.push_back(meters.step_ms);
        noted.particles.push_back(meters.particles);
        noted.pieces.push_back(meters.debris.pieces);
        noted.bytes.push_back(meters.bytes);
        noted.elements.push_back(meters.elements);
    }
    report.end();
    return noted;
}

// The cells of a line, by RFC 4180.
QStringList cells_of(const QString& line) {
    QStringList cells(QString{});
    bool is_quoted = false;
    for (qsizetype i = 0; i < line.size(); ++i) {
        if (line[i] == '"' && is_quoted && i + 1 < line.size() && line[i + 1] == '"') {
            cells.back() += line[i++];
        } else if (line[i] == '"') {
            is_quoted = !is_quoted;
        } else if (line[i] == ',' && !is_quoted) {
            cells << QString();
        } else {
            cells.back() += line[i];
        }
    }
    return cells;
}

bool near(double found, double expected) {
    return std::abs(found - expected) <= 1e-4 * std::max(std::abs(expected), 0.01);
}

} // namespace

class TestWriters : public QObject {
    Q_OBJECT

  private slots:
    void a_csv_says_of_each_step_what_was_measured() {
        const Effect effect = busy_effect();
        Report report(effect);
        std::ostringstream csv;
        report.begin_csv(csv);
        const Noted noted = reported(effect, report, 60);
        const QStringList lines = QString::fromStdString(csv.str()).trimmed().split('\n');
        QCOMPARE(lines.size(), qsizetype(61));
        const QStringList head = cells_of(lines[0]);
        const auto cell = [&](const QStringList& row, const char* name) {
            return row.at(head.indexOf(QString::fromLatin1(name))).toDouble();
        };
        for (size_t i = 0; i < noted.times.size(); ++i) {
            const QStringList row = cells_of(lines[qsizetype(i) + 1]);
            QCOMPARE(row.size(), head.size());
            QVERIFY(near(cell(row, "time_s"), noted.times[i]));
            QVERIFY(near(cell(row, "step_ms"), noted.step_ms[i]));
            QCOMPARE(cell(row, "particles"), double(noted.particles[i]));
            QCOMPARE(cell(row, "pieces"), double(noted.pieces[i]));
            QCOMPARE(cell(row, "e_live") + cell(row, "many_live"), double(noted.particles[i]));
            QCOMPARE(cell(row, "e_refused"), double(noted.elements[i][0].refused));
        }
        QVERIFY(noted.elements.back()[0].refused > 100 && noted.pieces.back() == 12);
    }

    void ids_with_commas_and_quotes_keep_their_columns() {
        Effect effect = effect_of(still(60, 10));
        effect.elements[0].id = "a, \"b\"";
        Report report(effect);
        std::ostringstream csv;
        report.begin_csv(csv);
        reported(effect, report, 3);
        const QStringList lines = QString::fromStdString(csv.str()).trimmed().split('\n');
        const QStringList head = cells_of(lines[0]);
        QVERIFY(head.contains("a, \"b\"_live"));
        QCOMPARE(cells_of(lines[3]).size(), head.size());
        QCOMPARE(cells_of(lines[3]).at(head.indexOf("a, \"b\"_live")), QString("3"));
    }

    void a_json_report_adds_its_rows_up() {
        Effect effect = busy_effect();
        effect.name = "Salt \"and\" \xff smoke";
        effect.budget.particles = 100;
        Report report(effect);
        std::ostringstream json;
        report.begin_json(json);
        const Noted noted = reported(effect, report, 41);
        QJsonParseError error;
        const QJsonObject read =
            QJsonDocument::fromJson(QByteArray::fromStdString(json.str()), &error).object();
        QCOMPARE(error.error, QJsonParseError::NoError);
        QVERIFY(read["effect"].toString().startsWith("Salt \"and\""));
        QCOMPARE(read["budget"].toObject()["particles"].toDouble(), 100.0);
        const QJsonArray steps = read["steps"].toArray();
        QCOMPARE(steps.size(), qsizetype(41));
        std::vector<double> times;
        double most = 0;
        for (qsizetype i = 0; i < steps.size(); ++i) {
            const QJsonObject row = steps[i].toObject();
            QCOMPARE(row["particles"].toDouble(), double(noted.particles[size_t(i)]));
            const QJsonObject many = row["elements"].toObject()["many"].toObject();
            QCOMPARE(many["live"].toDouble(), double(noted.elements[size_t(i)][2].live));
            times.push_back(row["step_ms"].toDouble());
            most = std::max(most, row["particles"].toDouble());
        }
        std::sort(times.begin(), times.end());
        const QJsonObject summary = read["summary"].toObject();
        QVERIFY(near(summary["step_ms_median"].toDouble(), times[20]));
        QVERIFY(near(summary["step_ms_95"].toDouble(), times[38]));
        QCOMPARE(summary["particles_most"].toDouble(), most);
        QCOMPARE(summary["bytes_most"].toDouble(),
                 double(*std::max_element(noted.bytes.begin(), noted.bytes.end())));
        QCOMPARE(summary["refused_births"].toDouble(), double(noted.elements.back()[0].refused));
        QVERIFY(!summary["over_budget"].toArray().isEmpty());
    }

    void each_limit_that_is_exceeded_is_named_data() {
        QTest::addColumn<QString>("limit");
        QTest::addColumn<QString>("words");
        QTest::newRow("frame") << "frame_ms"
                               << "step, 95 of 100";
        QTest::newRow("particles") << "particles"
                                   << "particles ";
        QTest::newRow("pieces") << "pieces"
                                << "pieces 12, limit 5";
        QTest::newRow("awake") << "awake_pieces"
                               << "awake pieces";
        QTest::newRow("memory") << "memory_mb"
                                << "memory ";
    }
    void each_limit_that_is_exceeded_is_named() {
        QFETCH(QString, limit);
        QFETCH(QString, words);
        Effect effect = busy_effect();
        effect.budget.frame_ms = 1e4f;
        effect.budget.memory_mb = 1e4f;
        effect.budget.particles = 1'000'000;
        effect.budget.pieces = effect.budget.awake_pieces = 1000;
        effect.budget.linger_s = 1000;
        {
            Report fits(effect);
            reported(effect, fits, 60);
            QVERIFY(!fits.is_over_budget());
        }
        limit == "frame_ms"       ? void(effect.budget.frame_ms = 1e-4f)
        : limit == "particles"    ? void(effect.budget.particles = 10)
        : limit == "pieces"       ? void(effect.budget.pieces = 5)
        : limit == "awake_pieces" ? void(effect.budget.awake_pieces = 2)
                                  : void(effect.budget.memory_mb = 1e-3f);
        Report exceeds(effect);
        reported(effect, exceeds, 60);
        QVERIFY(exceeds.is_over_budget());
        std::ostringstream summary;
        exceeds.write_summary(summary);
        const QString said = QString::fromStdString(summary.str());
        QCOMPARE(said.count("over budget:"), qsizetype(1));
        QVERIFY2(said.contains("over budget: " + words), qPrintable(said));
    }

    void a_report_of_no_steps_is_whole() {
        const Effect effect = busy_effect();
        Report report(effect);
        std::ostringstream json;
        report.begin_json(json);
        report.end();
        const QJsonObject read = QJsonDocument::fromJson(QByteArray::fromStdString(json.str())).object();
        QCOMPARE(read["summary"].toObject()["steps"].toInt(-1), 0);
        QVERIFY(!report.is_over_budget());
    }

    void a_ply_holds_each_particle_as_it_is() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("p.ply").toStdString();
        Effect effect = busy_effect();
        effect.looks[0].glow = 2;
        effect.looks[0].opacity = 0.5f;
        const Simulation simulation = run(effect, 0.75);
        QVERIFY(!write_ply(simulation, path));
        QFile file(QString::fromStdString(path.string()));
        QVERIFY(file.open(QIODevice::ReadOnly));
        QByteArray header;
        int properties = 0;
        do {
            header = file.readLine();
            properties += header.startsWith("property") ? 1 : 0;
            QVERIFY(!header.startsWith("element") ||
                    header.trimmed().endsWith(QByteArray::number(qulonglong(simulation.meters().particles))));
        } while (!header.isEmpty() && header != "end_header\n");
        QCOMPARE(properties, 20);
        const QByteArray body = file.readAll();
        QCOMPARE(size_t(body.size()), simulation.meters().particles * 80);
        const auto numbers = [&](size_t record) {
            std::array<float, 18> values{};
            std::memcpy(values.data(), body.data() + record * 80, sizeof values);
            return values;
        };
        const auto whole = [&](size_t record, size_t which) {
            uint32_t value = 0;
            std::memcpy(&value, body.data() + record * 80 + 72 + 4 * which, sizeof value);
            return value;
        };
        size_t record = 0;
        for (const auto& [id, source] : {std::pair("e", 0u), {"many", 1u}}) {
            for (const ParticleState& particle : particles(simulation, id)) {
                const auto values = numbers(record);
                QVERIFY((Vec3{values[0], values[1], values[2]} == particle.position));
                QVERIFY((Vec3{values[3], values[4], values[5]} == particle.velocity));
                QCOMPARE(values[6], particle.age);
                QCOMPARE(values[7], particle.lifetime);
                QVERIFY(values[8] >= 0 && values[12] >= 0 && values[12] <= 0.5f);
                QCOMPARE(values[13], particle.size);
                QCOMPARE(values[14], 1.0f); // its own tint
                QCOMPARE(whole(record, 0), particle.number);
                QCOMPARE(whole(record, 1), source);
                ++record;
            }
        }
        QCOMPARE(record, simulation.meters().particles);
    }

    void a_ply_that_cannot_be_written_says_so() {
        const Simulation simulation = run(effect_of(still(60, 1)), 0.1);
        const auto problem = write_ply(simulation, "/nowhere/at/all/p.ply");
        QVERIFY(problem && problem->file.find("p.ply") != std::string::npos);
    }
};

QTEST_APPLESS_MAIN(TestWriters)
#include "tst_writers.moc"
