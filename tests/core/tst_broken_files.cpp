// Ten thousand broken effect files: none may crash or hang the reader, and each refusal names a place. What
// the reader lets through must run.
#include "sample_effects.h"

#include "core/effect/effect_file.h"

#include <QDir>
#include <QFile>
#include <QtTest>

#include <random>

using namespace ember;

namespace {

// Deterministic damage of several kinds.
class Mutator {
  public:
    explicit Mutator(uint32_t seed) : random_(seed) {}

    std::string mutated(std::string text) {
        const int count = 1 + int(below(2));
        for (int i = 0; i < count; ++i) {
            damage(text);
        }
        return text;
    }

  private:
    size_t below(size_t end) { return end == 0 ? 0 : random_() % end; }

    void damage(std::string& text) {
        static const std::vector<std::string> scraps = {
            "-1",          "1e999", "-1e38",   "1e-45",    "NaN",          "Infinity",
            "null",        "true",  "[]",      "{}",       "\"\"",         "[[[[",
            "}",           "]",     ",",       ":",        "\"",           "99999999999999999999",
            "0.0000001",   "-0",    "\\u0000", "\xff\xfe", "\"elements\"", "\"links\"",
            "[1,2,3,4,5]", "\n\n\n"};
        const size_t at = below(text.size());
        switch (below(16)) {
        case 0:
            text[at] = char(below(256));
            return;
        case 1:
            text.erase(at, 1 + below(40));
            return;
        case 2:
            text.insert(at, scraps[below(scraps.size())]);
            return;
        case 3:
            text.insert(at, text.substr(below(text.size()), below(300)));
            return;
        case 4:
            text.resize(at);
            return;
        default:
            return exchange_value(text, scraps[below(scraps.size())]);
        }
    }

    // Puts a scrap in place of the value after some colon: the file mostly stays JSON.
    void exchange_value(std::string& text, const std::string& scrap) {
        const size_t colon = text.find(": ", below(text.size()));
        if (colon == std::string::npos) {
            return;
        }
        const size_t end = text.find_first_of(",}\n", colon);
        if (end != std::string::npos) {
            text.replace(colon + 2, end - colon - 2, scrap);
        }
    }

    std::mt19937 random_; // the same sequence on every machine, by the standard
};

} // namespace

namespace {

const QString demo_folder = QStringLiteral(EMBER_SOURCE_DIR "/demo/saltworks");

QStringList demo_names() {
    return QDir(demo_folder).entryList({"*.ember.json"});
}

} // namespace

class TestBrokenFiles : public QObject {
    Q_OBJECT

  private slots:
    void ten_thousand_broken_files_are_read_or_refused_with_a_place() {
        std::vector<std::string> sound;
        for (const QString& name : demo_names()) {
            QFile file(demo_folder + "/" + name);
            QVERIFY(file.open(QIODevice::ReadOnly));
            sound.push_back(file.readAll().toStdString());
        }
        int refused = 0, partly = 0, ran = 0;
        for (uint32_t i = 0; i < 10000; ++i) {
            const ReadResult read = parse_effect(Mutator(i).mutated(sound[i % sound.size()]), "broken");
            QVERIFY(read.effect || !read.problems.empty());
            for (const Problem& problem : read.problems) {
                QVERIFY(problem.file == "broken" && !problem.found.empty() && !problem.expected.empty());
                QVERIFY(problem.line > 0 || !problem.place.empty());
                QVERIFY(problem.text().size() < 2000);
            }
            refused += read.effect ? 0 : 1;
            partly += read.effect && !read.problems.empty() ? 1 : 0;
            if (read.effect) {
                QVERIFY(!whole_refusal(*read.effect));
                const ReadResult again = parse_effect(effect_text(*read.effect), "again");
                QVERIFY2(again.is_sound(),
                         again.problems.empty() ? "" : again.problems.front().text().c_str());
            }
            if (read.effect && i % 20 == 0) {
                Effect damaged = *read.effect;
                damaged.stage.warm_up = 0;
                sample::run(damaged, 0.1);
                ++ran;
            }
        }
        qInfo("%d refused whole, %d in part, %d of the others were run", refused, partly, ran);
        QVERIFY(refused > 1000 && partly > 500 && ran > 50);
    }

    void extreme_but_allowed_values_run_without_making_numbers_that_are_none_data() {
        QTest::addColumn<QString>("name");
        for (const QString& name : demo_names()) {
            QTest::newRow(qPrintable(name)) << name;
        }
    }
    void extreme_but_allowed_values_run_without_making_numbers_that_are_none() {
        QFETCH(QString, name);
        const ReadResult read = read_effect((demo_folder + "/" + name).toStdString());
        for (const bool high : {false, true}) {
            Effect effect = *read.effect;
            effect.stage.warm_up = 0;
            for (Element& element : effect.elements) {
                const ElementType& type = type_of(element.body);
                void* body = std::visit([](auto& b) -> void* { return &b; }, element.body);
                for (const Parameter& parameter : type.parameters) {
                    const auto end = float(high ? parameter.hard_high : parameter.hard_low);
                    if (parameter.kind == ParameterKind::number && parameter.key != "rate" &&
                        parameter.key != "view") {
                        parameter.set(body, end);
                    } else if (parameter.kind == ParameterKind::vector) {
                        parameter.set(body, Vec3{end, end, end});
                    } else if (parameter.kind == ParameterKind::range) {
                        parameter.set(body, Range{end, end});
                    }
                }
            }
            const Simulation simulation = sample::run(effect, 0.5);
            for (const Element& source : effect.elements) {
                for (const auto& p : sample::particles(simulation, source.id)) {
                    QVERIFY(std::isfinite(p.position.x + p.position.y + p.position.z));
                    QVERIFY(std::isfinite(p.velocity.x + p.velocity.y + p.velocity.z));
                }
            }
        }
    }
};

QTEST_APPLESS_MAIN(TestBrokenFiles)
#include "tst_broken_files.moc"
