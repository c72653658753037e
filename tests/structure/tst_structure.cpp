// What holds the house together: dependencies point one way, kernels are also GLSL, the generated page is
// current.
#include <QDir>
#include <QDirIterator>
#include <QProcess>
#include <QRegularExpression>
#include <QTemporaryDir>
#include <QtTest>

namespace {

const QString source = QStringLiteral(EMBER_SOURCE_DIR);

QString text_of(const QString& path) {
    QFile file(path);
    return file.open(QIODevice::ReadOnly) ? QString::fromUtf8(file.readAll()) : QString();
}

QStringList files_below(const QString& folder, const QStringList& patterns) {
    QStringList files;
    QDirIterator each(source + "/" + folder, patterns, QDir::Files, QDirIterator::Subdirectories);
    while (each.hasNext()) {
        files << each.next();
    }
    return files;
}

} // namespace

class TestStructure : public QObject {
    Q_OBJECT

  private slots:
    void dependencies_point_one_way_data() {
        QTest::addColumn<QString>("folder");
        QTest::addColumn<QStringList>("may_use");
        QTest::newRow("kernels") << "kernels" << QStringList{"kernels"};
        QTest::newRow("core") << "core" << QStringList{"core", "kernels"};
        QTest::newRow("reader") << "reader" << QStringList{"reader", "core", "kernels"};
        QTest::newRow("render") << "render" << QStringList{"render", "core", "kernels"};
        QTest::newRow("library") << "library" << QStringList{"library", "core", "kernels"};
        QTest::newRow("cli") << "cli" << QStringList{"cli", "render", "core", "kernels"};
        QTest::newRow("desktop") << "desktop" << QStringList{"desktop", "render", "core", "kernels"};
    }
    void dependencies_point_one_way() {
        QFETCH(QString, folder);
        QFETCH(QStringList, may_use);
        const QStringList files = files_below(folder, {"*.h", "*.cpp", "*.kern"});
        QVERIFY(!files.isEmpty());
        static const QRegularExpression own("#include \"([a-z]+)/");
        static const QRegularExpression qt("#include <Q[A-Za-z]+>");
        for (const QString& file : files) {
            const QString text = text_of(file);
            for (auto match = own.globalMatch(text); match.hasNext();) {
                const QString used = match.next().captured(1);
                QVERIFY2(may_use.contains(used), qPrintable(file + " uses " + used));
            }
            if (folder != "desktop") {
                QVERIFY2(!qt.match(text).hasMatch(), qPrintable(file + " uses Qt"));
            }
        }
    }

    // Each room of core uses only those before it; what particles, smoke and pieces have in common lies in
    // scene.
    void rooms_of_core_lie_in_layers() {
        const QStringList order = {"base",     "effect",  "geometry", "cutting",   "assets",
                                   "textures", "blocks",  "scene",    "particles", "smoke",
                                   "debris",   "runtime", "budget",   "bake"};
        const QStringList siblings = {"particles", "smoke", "debris"};
        const QStringList rooms = QDir(source + "/core").entryList(QDir::Dirs | QDir::NoDotAndDotDot);
        QCOMPARE(QSet<QString>(rooms.begin(), rooms.end()), QSet<QString>(order.begin(), order.end()));
        static const QRegularExpression own("#include \"core/([a-z]+)/");
        for (const QString& room : order) {
            const QStringList files = files_below("core/" + room, {"*.h", "*.cpp"});
            QVERIFY2(!files.isEmpty(), qPrintable(room));
            for (const QString& file : files) {
                const QString text = text_of(file);
                for (auto match = own.globalMatch(text); match.hasNext();) {
                    const QString used = match.next().captured(1);
                    const bool is_sibling =
                        siblings.contains(room) && siblings.contains(used) && used != room;
                    QVERIFY2(order.indexOf(used) <= order.indexOf(room) && !is_sibling,
                             qPrintable(file + " uses core/" + used));
                }
            }
        }
    }

    void board_view_detail_and_strip_do_not_reach_into_each_other() {
        const QStringList rooms = {"board", "view", "detail", "strip", "top"};
        for (const QString& room : rooms) {
            for (const QString& file : files_below("desktop/" + room, {"*.h", "*.cpp"})) {
                for (const QString& other : rooms) {
                    QVERIFY2(other == room || !text_of(file).contains("\"desktop/" + other + "/"),
                             qPrintable(file));
                }
            }
        }
    }

    // What stands behind the window can be tested, and later be remote-controlled, without one.
    void workbench_has_no_widgets() {
        const QStringList files = files_below("desktop/workbench", {"*.h", "*.cpp"});
        QVERIFY(!files.isEmpty());
        static const QRegularExpression own("#include \"desktop/([a-z]+)/");
        const QString build = text_of(source + "/desktop/CMakeLists.txt");
        QVERIFY(build.contains(
            "target_link_libraries(ember_workbench PUBLIC ember_core ember_render Qt6::Core)"));
        for (const QString& file : files) {
            const QString text = text_of(file);
            for (auto match = own.globalMatch(text); match.hasNext();) {
                QCOMPARE(match.next().captured(1), QStringLiteral("workbench"));
            }
        }
    }

    void every_kernel_compiles_as_glsl() {
        // In the order in which the kernels of particles and of smoke include them; each stands on the ones
        // before.
        static const QRegularExpression include("#include \"kernels/([a-z]+)\\.kern\"");
        QStringList order = {"rows"};
        const QString includes = text_of(source + "/core/blocks/block_kernels.cpp") +
                                 text_of(source + "/core/smoke/smoke_kernels.cpp");
        for (auto match = include.globalMatch(includes); match.hasNext();) {
            order << match.next().captured(1);
        }
        order.removeDuplicates();
        QCOMPARE(order.size(), files_below("kernels", {"*.kern"}).size());

        QTemporaryDir folder;
        QString shader = text_of(source + "/kernels/prelude.glsl");
        for (const QString& name : order) {
            shader += "\n" + text_of(source + "/kernels/" + name + ".kern");
            QFile file(folder.filePath(name + ".comp"));
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(shader.toUtf8() + "\nlayout(local_size_x = 64) in;\nvoid main() {}\n");
            file.close();
            QProcess glslang;
            glslang.start("glslangValidator", {file.fileName()});
            QVERIFY2(glslang.waitForFinished(300000), "glslangValidator (package glslang-tools) is missing");
            QVERIFY2(glslang.exitCode() == 0, glslang.readAllStandardOutput().constData());
        }
    }

    void a_broken_kernel_does_not_compile_as_glsl() {
        QTemporaryDir folder;
        QFile file(folder.filePath("broken.comp"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(text_of(source + "/kernels/prelude.glsl").toUtf8() +
                   "\nKERNEL real f(real a) { return a + rvec3(a, a, a); }\nvoid main() {}\n");
        file.close();
        QProcess glslang;
        glslang.start("glslangValidator", {file.fileName()});
        QVERIFY(glslang.waitForFinished(300000));
        QVERIFY(glslang.exitCode() != 0);
    }

    // The shader that is written beside pieces as textures.
    void shaders_that_are_written_compile() {
        static const QRegularExpression shader("R\"\\((#version.*?)\\)\"",
                                               QRegularExpression::DotMatchesEverythingOption);
        const auto found = shader.match(text_of(source + "/core/bake/piece_textures.cpp"));
        QVERIFY(found.hasMatch());
        QTemporaryDir folder;
        QFile file(folder.filePath("decode.vert"));
        QVERIFY(file.open(QIODevice::WriteOnly));
        file.write(found.captured(1).toUtf8());
        file.close();
        QProcess glslang;
        glslang.start("glslangValidator", {file.fileName()});
        QVERIFY(glslang.waitForFinished(300000));
        QVERIFY2(glslang.exitCode() == 0, glslang.readAllStandardOutput().constData());
    }

    void page_about_the_effect_format_is_current() {
        QProcess cli;
        cli.start(EMBER_CLI, {"describe", "--markdown"});
        QVERIFY(cli.waitForFinished(300000));
        QVERIFY2(QString::fromUtf8(cli.readAllStandardOutput()) == text_of(source + "/docs/effect-format.md"),
                 "write it anew: crisp-ember-cli describe --markdown > docs/effect-format.md");
    }

    void pages_link_only_to_files_that_are_there() {
        static const QRegularExpression link("\\]\\(([^)#]+)[^)]*\\)");
        QStringList pages = files_below("docs", {"*.md"});
        pages << source + "/README.md";
        for (const QString& page : pages) {
            for (auto match = link.globalMatch(text_of(page)); match.hasNext();) {
                const QString target = match.next().captured(1);
                QVERIFY2(target.startsWith("http") ||
                             QFileInfo::exists(QFileInfo(page).path() + "/" + target),
                         qPrintable(page + " links to " + target));
            }
        }
    }
};

QTEST_GUILESS_MAIN(TestStructure)
#include "tst_structure.moc"
