#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "desktop/workbench/document.h"

#include <QSignalSpy>
#include <QTemporaryDir>
#include <QtTest>

using namespace ember;

class TestDocument : public QObject {
    Q_OBJECT

  private slots:
    void edits_are_announced_and_can_be_undone() {
        QTemporaryDir folder;
        Document document(folder.path());
        QSignalSpy changes(&document, &Document::effectChanged);
        document.apply(with_seed(*document.effect(), 5), "seed");
        QCOMPARE(changes.count(), 1);
        QVERIFY(!document.isSaved());
        document.undo();
        QCOMPARE(document.effect()->seed, starter_effect().seed);
        QVERIFY(document.isSaved());
    }

    void saved_document_opens_as_the_same() {
        QTemporaryDir folder;
        Document document(folder.path());
        document.apply(with_seed(*document.effect(), 5), "seed");
        const QString path = folder.filePath("e.ember.json");
        QVERIFY(!document.save(path));
        QVERIFY(document.isSaved());
        QVERIFY(*read_effect(path.toStdString()).effect == *document.effect());
    }

    void failed_save_keeps_the_document_unsaved() {
        QTemporaryDir folder;
        Document document(folder.path());
        document.apply(with_seed(*document.effect(), 5), "seed");
        QVERIFY(document.save("/proc/nowhere/e.ember.json"));
        QVERIFY(!document.isSaved());
        QVERIFY(document.path().isEmpty());
    }

    void unsaved_work_is_kept_and_forgotten_once_it_is_saved() {
        QTemporaryDir folder;
        Document document(folder.path(), 50);
        const auto kept_in = [](const QTemporaryDir& where) {
            return QDir(where.path()).entryList({"*.ember.json"}, QDir::Files).size();
        };
        const auto kept = [&] { return kept_in(folder); };
        // By the time that another one has kept something twice as late, this one has had nothing to keep.
        QTemporaryDir other_folder;
        Document other(other_folder.path(), 100);
        other.apply(with_seed(*other.effect(), 5), "seed");
        QTRY_COMPARE(kept_in(other_folder), 1);
        QCOMPARE(kept(), 0);
        document.apply(with_seed(*document.effect(), 5), "seed");
        QTRY_COMPARE(kept(), 1);
        QVERIFY(!document.save(folder.filePath("sub")));
        QTRY_COMPARE(kept(), 0);
    }

    void work_of_a_crashed_program_is_offered_again() {
        QTemporaryDir folder;
        {
            // What a crash leaves behind: the kept file and its origin, and a lock that nobody holds.
            Document lost(folder.path());
            lost.reset(starter_effect(), "/saltworks/gate.ember.json");
            lost.apply(with_seed(*lost.effect(), 77), "seed");
            lost.keepUnsavedWork();
            for (const QString& name :
                 QDir(folder.path()).entryList({"*.ember.json", "*.origin"}, QDir::Files)) {
                QVERIFY(QFile::copy(folder.filePath(name), folder.filePath("crashed-" + name)));
            }
        }
        Document document(folder.path());
        const auto lost = document.lostWork();
        QCOMPARE(lost.size(), size_t(1));
        QCOMPARE(lost[0].original, QString("/saltworks/gate.ember.json"));
        QVERIFY(document.recover(lost[0]).empty());
        QCOMPARE(document.effect()->seed, 77u);
        QVERIFY(!document.isSaved());
        QCOMPARE(document.path(), QString("/saltworks/gate.ember.json"));
        QVERIFY(document.lostWork().empty());
    }

    void work_of_a_running_program_is_not_offered() {
        QTemporaryDir folder;
        Document running(folder.path());
        running.apply(with_seed(*running.effect(), 77), "seed");
        running.keepUnsavedWork();
        const Document other(folder.path());
        QVERIFY(other.lostWork().empty());
    }

    void damaged_lost_work_is_said_and_kept() {
        QTemporaryDir folder;
        QFile damaged(folder.filePath("crashed.ember.json"));
        QVERIFY(damaged.open(QIODevice::WriteOnly));
        damaged.write("{\"format\": \"crisp-em");
        damaged.close();
        Document document(folder.path());
        const Problems problems = document.recover(document.lostWork().at(0));
        QCOMPARE(problems.size(), size_t(1));
        QVERIFY(QFile::exists(damaged.fileName()));
    }
};

QTEST_GUILESS_MAIN(TestDocument)
#include "tst_document.moc"
