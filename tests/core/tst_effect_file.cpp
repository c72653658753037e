#include "core/effect/edit.h"
#include "core/effect/effect_file.h"

#include <QDir>
#include <QTemporaryDir>
#include <QtTest>

#include <filesystem>
#include <limits>

using namespace ember;

namespace {

std::string demo_text() {
    QFile file(EMBER_DEMO);
    return file.open(QIODevice::ReadOnly) ? file.readAll().toStdString() : std::string();
}

// The demo with one piece of text exchanged; the piece must be there.
std::string demo_with(const std::string& from, const std::string& to) {
    std::string text = demo_text();
    const auto at = text.find(from);
    if (at == std::string::npos) {
        qFatal("the demo does not hold %s", from.c_str());
    }
    return text.replace(at, from.size(), to);
}

bool names(const Problems& problems, const std::string& place) {
    return std::any_of(problems.begin(), problems.end(), [&](const Problem& problem) {
        return problem.place == place && problem.line > 0 && !problem.found.empty() &&
               !problem.expected.empty();
    });
}

} // namespace

class TestEffectFile : public QObject {
    Q_OBJECT

  private slots:
    void demo_is_sound_and_reads_back_the_same() {
        const ReadResult read = read_effect(EMBER_DEMO);
        for (const Problem& problem : read.problems) {
            qWarning("%s", problem.text().c_str());
        }
        QVERIFY(read.is_sound());
        const std::string text = effect_text(*read.effect);
        const ReadResult again = parse_effect(text, "again");
        QVERIFY(again.is_sound());
        QVERIFY(*again.effect == *read.effect);
        QCOMPARE(effect_text(*again.effect), text);
    }

    void demo_stands_in_the_file_as_the_program_writes_it() {
        QCOMPARE(effect_text(*read_effect(EMBER_DEMO).effect), demo_text());
    }

    void every_element_type_survives_the_file() {
        Effect effect = starter_effect();
        std::string id;
        for (const ElementType& type : element_types()) {
            effect = with_new_element(effect, type, id);
        }
        const ReadResult read = parse_effect(effect_text(effect), "all");
        QVERIFY(read.is_sound());
        QVERIFY(*read.effect == effect);
    }

    void unknown_members_are_kept_and_written_back() {
        std::string text =
            demo_with("\"version\": 3,", "\"version\": 3,\n  \"tempo\": {\"beats\": [1, 2.5, \"x\"]},");
        text.replace(text.find("\"rate\""), 6, "\"shimmer\": [7, {\"deep\": null}],\n        \"rate\"");
        text.replace(text.find("\"exposure\""), 10, "\"grain\": 0.25, \"exposure\"");
        const ReadResult read = parse_effect(text, "unknown");
        QVERIFY(read.is_sound());
        const std::string written = effect_text(*read.effect);
        for (const char* kept : {"\"tempo\"", "\"beats\": [1, 2.5, \"x\"]", "\"shimmer\"", "\"deep\": null",
                                 "\"grain\": 0.25"}) {
            QVERIFY2(written.find(kept) != std::string::npos, kept);
        }
        QVERIFY(*parse_effect(written, "again").effect == *read.effect);
    }

    // What we give to artists has nothing in it that is not understood.
    void demos_and_samples_are_read_without_a_note() {
        for (const char* folder : {"/demo/saltworks", "/demo/samples", "/demo/starts"}) {
            const QDir files(QStringLiteral(EMBER_SOURCE_DIR) + folder);
            const QStringList names = files.entryList({"*.ember.json"});
            QVERIFY(names.size() >= 5);
            for (const QString& name : names) {
                const ReadResult read = read_effect(files.filePath(name).toStdString());
                QVERIFY2(read.is_sound() && read.notes.empty(), qPrintable(name));
            }
        }
    }

    void refused_values_name_place_and_line_data() {
        QTest::addColumn<QString>("from");
        QTest::addColumn<QString>("to");
        QTest::addColumn<QString>("place");
        const QString rate = "\"rate\": 11000";
        const QString at_rate = "/elements/0/parameters/rate";
        QTest::newRow("negative") << rate << "\"rate\": -5" << at_rate;
        QTest::newRow("huge") << rate << "\"rate\": 1e300" << at_rate;
        QTest::newRow("text for a number") << rate << "\"rate\": \"NaN\"" << at_rate;
        QTest::newRow("null") << rate << "\"rate\": null" << at_rate;
        QTest::newRow("fraction of a particle") << "\"capacity\": 40000"
                                                << "\"capacity\": 0.5"
                                                << "/elements/0/parameters/capacity";
        QTest::newRow("capacity beyond all") << "\"capacity\": 40000"
                                             << "\"capacity\": 99999999999"
                                             << "/elements/0/parameters/capacity";
        QTest::newRow("range upside down") << "\"speed\": [4.2, 6.2]"
                                           << "\"speed\": [6.2, 4.2]"
                                           << "/elements/0/parameters/speed";
        QTest::newRow("two of three") << "\"turn\": [0, 90, 0]"
                                      << "\"turn\": [0, 90]"
                                      << "/elements/0/parameters/turn";
        QTest::newRow("unknown choice") << "\"shape\": \"line\""
                                        << "\"shape\": \"spiral\""
                                        << "/elements/0/parameters/shape";
        QTest::newRow("weight above one") << "\"mist\": 0.03"
                                          << "\"mist\": 1.5"
                                          << "/elements/3/links/mist";
        QTest::newRow("link to nowhere") << "\"mist\": 0.03"
                                         << "\"fog\": 0.03"
                                         << "/elements/3/links/fog";
        QTest::newRow("link to a force") << "\"mist\": 0.03"
                                         << "\"sea-wind\": 0.03"
                                         << "/elements/3/links/sea-wind";
        QTest::newRow("unknown type") << "\"type\": \"gravity\""
                                      << "\"type\": \"antigravity\""
                                      << "/elements/3/type";
        QTest::newRow("id twice") << "\"id\": \"gravity\""
                                  << "\"id\": \"mist\""
                                  << "/elements/3/id";
        QTest::newRow("reserved id") << "\"id\": \"gravity\""
                                     << "\"id\": \"stage\""
                                     << "/elements/3/id";
        QTest::newRow("missing look") << "\"look\": \"haze\""
                                      << "\"look\": \"smog\""
                                      << "/elements/2/parameters/look";
        QTest::newRow("seed") << "\"seed\": 41"
                              << "\"seed\": -1"
                              << "/seed";
        QTest::newRow("newer version") << "\"version\": 3"
                                       << "\"version\": 7"
                                       << "/version";
    }
    void refused_values_name_place_and_line() {
        QFETCH(QString, from);
        QFETCH(QString, to);
        QFETCH(QString, place);
        const ReadResult read =
            parse_effect(demo_with(from.toStdString(), to.toStdString()), "broken.ember.json");
        QVERIFY(!read.is_sound());
        QVERIFY(read.effect.has_value());
        QVERIFY2(names(read.problems, place.toStdString()), read.problems.front().text().c_str());
        // What is sound can be opened, saved and opened again.
        QVERIFY(parse_effect(effect_text(*read.effect), "again").is_sound());
    }

    void line_numbers_are_those_of_an_editor() {
        const ReadResult read =
            parse_effect("{\n\"format\": \"crisp-ember effect\",\n\"version\": 1,\n\"elements\": [],\n"
                         "\"looks\": [],\n\"stage\":\n{\n\"mist\":\n-3\n}\n}",
                         "f");
        QCOMPARE(read.problems.size(), size_t(1));
        QCOMPARE(read.problems[0].line, 9);
        QCOMPARE(QString::fromStdString(read.problems[0].text()),
                 QString("f:9: /stage/mist: found -3, expected a number from 0 to 10 1/m"));
    }

    void newer_version_is_said_in_words() {
        const ReadResult read = parse_effect(demo_with("\"version\": 3", "\"version\": 4"), "f");
        QVERIFY(read.problems.front().text().find("newer") != std::string::npos);
    }

    void truncated_file_is_refused_whole() {
        const std::string text = demo_text();
        for (const double share : {0.0, 0.1, 0.5, 0.9}) {
            const ReadResult read = parse_effect(text.substr(0, size_t(double(text.size()) * share)), "cut");
            QVERIFY(!read.effect);
            QCOMPARE(read.problems.size(), size_t(1));
            QVERIFY(read.problems.front().line > 0);
        }
    }

    void nesting_bomb_is_refused() {
        const ReadResult read = parse_effect(std::string(2'000'000, '['), "bomb");
        QVERIFY(!read.effect);
        QVERIFY(read.problems.front().found.find("nested") != std::string::npos);
    }

    void too_much_capacity_in_all_is_refused_before_anything_is_allocated() {
        const ReadResult read =
            parse_effect(demo_with("\"capacity\": 40000", "\"capacity\": 16000000"), "large");
        QVERIFY(!read.is_sound());
        QVERIFY(read.problems.front().text().find("MB") != std::string::npos);
        QVERIFY(!whole_refusal(*read.effect));
    }

    void numbers_that_are_not_numbers_are_refused_by_every_parameter() {
        const float nan = std::numeric_limits<float>::quiet_NaN();
        const float infinite = std::numeric_limits<float>::infinity();
        for (const ElementType& type : element_types()) {
            for (const Parameter& parameter : type.parameters) {
                for (const float bad : {nan, infinite, -infinite, 3e38f, -3e38f}) {
                    QVERIFY(refusal_of(parameter, bad));
                    QVERIFY(refusal_of(parameter, Vec3{0, bad, 0}));
                    QVERIFY(refusal_of(parameter, Range{0, bad}));
                    QVERIFY(refusal_of(parameter, Colour{bad, 0, 0, 1}));
                }
            }
        }
        for (const Parameter& parameter : look_parameters()) {
            QVERIFY(refusal_of(parameter, Curve{{{0, nan}}}));
            QVERIFY(refusal_of(parameter, Curve{{}}));
            QVERIFY(refusal_of(parameter, Curve{{{0.5f, 1}, {0.5f, 1}}}));
            QVERIFY(refusal_of(parameter, Ramp{{{0, {1, 1, 1, 2}}}}));
        }
    }

    void missing_file_and_folder_are_said() {
        QVERIFY(read_effect("/nowhere/at/all.ember.json").problems.front().found.find("no such file") !=
                std::string::npos);
        QVERIFY(read_effect("/").problems.front().found.find("folder") != std::string::npos);
    }

    void saving_into_an_unwritable_folder_is_refused() {
        const auto problem = save_effect(starter_effect(), "/proc/no-such-folder/x.ember.json");
        QVERIFY(problem);
        QVERIFY(problem->text().find("cannot be written") != std::string::npos);
    }

    void failed_save_leaves_the_old_file_as_it_was() {
        QTemporaryDir folder;
        const std::filesystem::path path = folder.filePath("kept.ember.json").toStdString();
        QVERIFY(!save_effect(starter_effect(), path));
        // A folder in the place of the file cannot be replaced by a file.
        const std::filesystem::path taken = folder.filePath("taken").toStdString();
        std::filesystem::create_directories(taken / "inside");
        QVERIFY(save_effect(starter_effect(), taken));
        QVERIFY(std::filesystem::is_directory(taken));
        QVERIFY(read_effect(path).is_sound());
        // Nothing half-written is left behind.
        QCOMPARE(QDir(folder.path()).entryList(QDir::Files | QDir::Hidden), QStringList{"kept.ember.json"});
    }

    void names_in_other_scripts_survive() {
        Effect effect = starter_effect();
        effect.name = "Écluse 水門 \"quoted\" \\ back";
        QCOMPARE(parse_effect(effect_text(effect), "f").effect->name, effect.name);
    }

    void defaults_lie_in_their_own_ranges() {
        const auto check = [](std::span<const Parameter> parameters, const void* object) {
            for (const Parameter& parameter : parameters) {
                const auto refusal = refusal_of(parameter, parameter.get(object));
                QVERIFY2(!refusal, std::string(parameter.key).c_str());
                QVERIFY(!parameter.help.empty());
            }
        };
        for (const ElementType& type : element_types()) {
            std::visit([&](const auto& body) { check(type.parameters, &body); }, type.prototype);
        }
        const Look look;
        const Stage stage;
        const Budget budget;
        check(look_parameters(), &look);
        check(stage_parameters(), &stage);
        check(budget_parameters(), &budget);
    }
};

QTEST_APPLESS_MAIN(TestEffectFile)
#include "tst_effect_file.moc"
