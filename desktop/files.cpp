#include "desktop/files.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "desktop/workbench/presets.h"
#include "desktop/workbench/shipped.h"

#include <QDir>
#include <QFile>
#include <QFileDialog>
#include <QFileInfo>
#include <QMenu>
#include <QMessageBox>
#include <QPushButton>
#include <QSettings>

namespace ember {

namespace {

const QString recent_key = QStringLiteral("recent");
const QString demo_ending = QStringLiteral(".ember.json");
constexpr int most_recent = 8;
constexpr qsizetype most_shown_problems = 12;

QString filter() {
    return Files::tr("Effects (*.ember.json);;All files (*)");
}

// Native dialogs differ from desktop to desktop; ours looks like the rest of the program everywhere.
constexpr auto dialog_options = QFileDialog::DontUseNativeDialog;

} // namespace

Files::Files(Document& document, QWidget* window) : QObject(window), document_(document), window_(window) {}

void Files::newEffect() {
    if (mayLeave()) {
        document_.reset(starter_effect(), {});
    }
}

void Files::open() {
    const QString path = QFileDialog::getOpenFileName(
        window_, tr("Open an effect"), QFileInfo(document_.path()).path(), filter(), nullptr, dialog_options);
    if (!path.isEmpty()) {
        openPath(path);
    }
}

bool Files::agreesToOpenWhatIsSound(const QString& path, const Problems& problems, bool any_sound) {
    QStringList lines;
    for (const Problem& problem : problems) {
        if (lines.size() == most_shown_problems) {
            lines << tr("and %1 more").arg(qsizetype(problems.size()) - most_shown_problems);
            break;
        }
        Problem without_file = problem;
        without_file.file = problem.line > 0 ? tr("line").toStdString() : "";
        lines << QString::fromStdString(without_file.text());
    }
    QMessageBox box(QMessageBox::Warning, tr("Problems in the file"),
                    tr("%1 has problems:").arg(QFileInfo(path).fileName()), QMessageBox::NoButton, window_);
    box.setInformativeText(
        lines.join("\n\n") +
        (any_sound ? tr("\n\nWhat is not sound would have its default value. The file itself stays as it is.")
                   : QString()));
    QPushButton* open =
        any_sound ? box.addButton(tr("Open what is sound"), QMessageBox::AcceptRole) : nullptr;
    box.addButton(any_sound ? tr("Do not open") : tr("Close"), QMessageBox::RejectRole);
    box.exec();
    return open != nullptr && box.clickedButton() == open;
}

bool Files::openPath(const QString& path) {
    if (!mayLeave()) {
        return false;
    }
    ReadResult read = read_effect(path.toStdString());
    if (!read.is_sound() && !agreesToOpenWhatIsSound(path, read.problems, read.effect.has_value())) {
        return false;
    }
    // What was opened in part must not be saved over the whole by mistake: it has no file of its own yet.
    document_.reset(std::move(*read.effect), read.problems.empty() ? path : QString());
    remember(path);
    return true;
}

QStringList Files::demoNames() {
    QStringList names = QDir(shipped_folder("saltworks")).entryList({"*" + demo_ending}, QDir::Files);
    for (QString& name : names) {
        name.chop(demo_ending.size());
    }
    return names;
}

QString Files::demoPath(const QString& name) {
    return shipped_folder("saltworks") + "/" + name + demo_ending;
}

void Files::openCopy(const QString& path) {
    if (!mayLeave()) {
        return;
    }
    ReadResult read = read_effect(path.toStdString());
    if (!read.is_sound() && !agreesToOpenWhatIsSound(path, read.problems, read.effect.has_value())) {
        return;
    }
    document_.reset(std::move(*read.effect), {}, QFileInfo(path).path());
}

bool Files::save() {
    return document_.path().isEmpty() ? saveAs() : saveTo(document_.path());
}

bool Files::saveAs() {
    QFileDialog dialog(window_, tr("Save the effect"), QFileInfo(document_.path()).path(), filter());
    dialog.setOption(dialog_options);
    dialog.setAcceptMode(QFileDialog::AcceptSave);
    dialog.setDefaultSuffix(QStringLiteral("ember.json"));
    dialog.selectFile(document_.path().isEmpty()
                          ? document_.displayName().toLower().replace(' ', '-') + ".ember.json"
                          : QFileInfo(document_.path()).fileName());
    return dialog.exec() == QDialog::Accepted && saveTo(dialog.selectedFiles().constFirst());
}

bool Files::saveTo(const QString& path) {
    if (document_.displayName() == "Untitled") {
        const QString name = QFileInfo(path).fileName().section('.', 0, 0);
        document_.apply(with_effect_name(*document_.effect(), name.toStdString()), tr("name the effect"));
    }
    if (!bringFilesTo(QFileInfo(path).absolutePath())) {
        return false;
    }
    if (const auto problem = document_.save(path)) {
        QMessageBox::critical(window_, tr("Not saved"), QString::fromStdString(problem->text()));
        return false;
    }
    remember(path);
    return true;
}

bool Files::bringFilesTo(const QString& folder) {
    if (document_.folder().isEmpty() || QDir(document_.folder()) == QDir(folder)) {
        return true;
    }
    if (const auto refused = bring_files(*document_.effect(), document_.folder(), folder)) {
        QMessageBox::critical(window_, tr("Not saved"),
                              tr("%1 cannot be written: the effect's files go with it.").arg(*refused));
        return false;
    }
    return true;
}

bool Files::mayLeave() {
    if (document_.isSaved()) {
        return true;
    }
    QMessageBox box(QMessageBox::Question, tr("Unsaved changes"),
                    tr("%1 has unsaved changes.").arg(document_.displayName()), QMessageBox::NoButton,
                    window_);
    QPushButton* save_button = box.addButton(tr("Save"), QMessageBox::AcceptRole);
    QPushButton* discard = box.addButton(tr("Discard the changes"), QMessageBox::DestructiveRole);
    box.addButton(tr("Go on working"), QMessageBox::RejectRole);
    box.setDefaultButton(save_button);
    box.exec();
    return box.clickedButton() == discard || (box.clickedButton() == save_button && save());
}

void Files::offerLostWork() {
    for (const LostWork& work : document_.lostWork()) {
        const QString what = work.original.isEmpty() ? tr("An effect that was never saved") : work.original;
        QMessageBox box(
            QMessageBox::Question, tr("Unsaved work was found"),
            tr("The program ended before this was saved:\n%1\nkept on %2").arg(what, work.saved_at),
            QMessageBox::NoButton, window_);
        QPushButton* recover = box.addButton(tr("Bring it back"), QMessageBox::AcceptRole);
        QPushButton* discard = box.addButton(tr("Throw it away"), QMessageBox::DestructiveRole);
        box.addButton(tr("Ask again next time"), QMessageBox::RejectRole);
        box.setDefaultButton(recover);
        box.exec();
        if (box.clickedButton() == discard) {
            document_.discard(work);
        } else if (box.clickedButton() == recover) {
            if (const Problems problems = document_.recover(work); !problems.empty()) {
                agreesToOpenWhatIsSound(work.file, problems, false);
                continue;
            }
            return; // one document at a time; the others are offered at the next start
        }
    }
}

void Files::remember(const QString& path) {
    QSettings settings;
    QStringList recent = settings.value(recent_key).toStringList();
    const QString full = QFileInfo(path).absoluteFilePath();
    recent.removeAll(full);
    recent.prepend(full);
    settings.setValue(recent_key, recent.mid(0, most_recent));
}

QStringList Files::recent() {
    QStringList paths = QSettings().value(recent_key).toStringList();
    paths.removeIf([](const QString& path) { return !QFileInfo::exists(path); });
    return paths;
}

void Files::fillRecent(QMenu* menu) {
    menu->clear();
    for (const QString& path : recent()) {
        QAction* action = menu->addAction(QFileInfo(path).fileName());
        action->setToolTip(path);
        connect(action, &QAction::triggered, this, [this, path] { openPath(path); });
    }
    if (menu->isEmpty()) {
        menu->addAction(tr("none yet"))->setEnabled(false);
    }
}

} // namespace ember
