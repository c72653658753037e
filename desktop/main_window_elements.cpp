// The window's commands on elements: those that are chosen on the board.
#include "desktop/main_window.h"

#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/paste.h"
#include "desktop/board/board_panel.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/detail/word_editor.h"
#include "desktop/gallery/offers.h"

#include <QAction>
#include <QApplication>
#include <QClipboard>
#include <QInputDialog>
#include <QMenu>
#include <QStatusBar>

#include <algorithm>

namespace ember {

namespace {

std::string group_name(const QString& typed) {
    return typed.trimmed().left(40).toStdString();
}

} // namespace

void MainWindow::makeElementCommands(QMenu* menu) {
    const auto add_one = [&](const QString& text, const char* keys, Family first, Family last) {
        command(menu, text, QKeySequence(QLatin1String(keys)), tr("Choose one by what it does"),
                [this, first, last] { chooseToAdd(first, last); });
    };
    add_one(tr("Add a source..."), "Ctrl+1", Family::source, Family::source);
    add_one(tr("Add an influence..."), "Ctrl+2", Family::force, Family::breaking);
    add_one(tr("Add a mover, light, smoke, modulator or trigger..."), "Ctrl+3", Family::mover,
            Family::trigger);
    const auto on_elements = [&](const QString& text, const QString& keys, const QString& tip, auto run) {
        element_commands_.push_back(command(menu, text, QKeySequence(keys), tip, run));
    };
    on_elements(tr("Copy"), tr("Ctrl+C"),
                tr("Copies what is chosen with links, looks and drives, also for another window"),
                [this] { copyChosen(); });
    command(menu, tr("Paste"), QKeySequence(tr("Ctrl+V")), tr("Adds the elements that were copied"),
            [this] { paste(); });
    on_elements(tr("Move earlier"), tr("Ctrl+Up"), tr("Before the one above it, among its kind"),
                [this] { moveChosen(-1); });
    on_elements(tr("Move later"), tr("Ctrl+Down"), tr("Behind the one below it, among its kind"),
                [this] { moveChosen(1); });
    on_elements(tr("Group..."), tr("Ctrl+G"), tr("Puts the chosen rows under a heading of their own"),
                [this] { groupChosen(); });
    on_elements(tr("Duplicate"), tr("Ctrl+D"), tr("A copy with the same links; a source's look is shared"),
                [this] { duplicateChosen(); });
    on_elements(tr("Rename"), tr("F2"), tr("Type another name"), [this] { detail_->rename(); });
    on_elements(tr("Delete"), tr("Del"), tr("Take the chosen elements off the board"),
                [this] { removeChosen(); });
    on_elements(tr("Mute"), tr("M"), tr("As if it were not there, and back"), [this] {
        const bool muted = !selectedElement()->muted;
        editChosen(muted ? tr("mute") : tr("unmute"), [muted](const Effect& effect, const std::string& id) {
            return with_muted(effect, id, muted);
        });
    });
    on_elements(tr("Solo"), tr("S"), tr("Only the soloed ones of its side, and back"), [this] {
        const bool solo = !selectedElement()->solo;
        editChosen(tr("solo"), [solo](const Effect& effect, const std::string& id) {
            return with_solo(effect, id, solo);
        });
    });
}

// One edit of all that is chosen.
void MainWindow::editChosen(const QString& what,
                            const std::function<Effect(const Effect&, const std::string&)>& edit) {
    const std::vector<std::string> chosen = board_->board()->chosen();
    Effect effect = *document_.effect();
    for (const std::string& id : chosen) {
        effect = edit(effect, id);
    }
    const QString whom = chosen.size() == 1
                             ? QString::fromStdString(find_element(*document_.effect(), chosen[0])->name)
                             : tr("%1 elements").arg(chosen.size());
    if (effect != *document_.effect()) {
        applyEdit(effect, what + " " + whom, {});
    }
}

// Chooses new elements, if the edit that made them was taken.
void MainWindow::selectNew(const std::vector<std::string>& ids) {
    if (!ids.empty() && find_element(*document_.effect(), ids.front()) != nullptr) {
        select(ids.front());
        board_->board()->setChosen(ids);
    }
}

void MainWindow::chooseToAdd(Family first, Family last) {
    const QString title = first == Family::source  ? tr("Add a source")
                          : first == Family::force ? tr("Add an influence")
                                                   : tr("Add a mover, light or modulator");
    Gallery gallery(title, offers_to_add(first, last), this);
    if (gallery.exec() == QDialog::Accepted) {
        add(gallery.chosen().key);
    }
}

void MainWindow::add(const QString& key) {
    if (find_type(key.toStdString()) == nullptr) {
        return addSourcesOf(key);
    }
    std::string id;
    const Effect effect = with_new_element(*document_.effect(), *find_type(key.toStdString()), id);
    applyEdit(effect, tr("add %1").arg(QString::fromStdString(find_element(effect, id)->name)), {});
    selectNew({id});
}

void MainWindow::addSourcesOf(const QString& path) {
    const ReadResult sample = read_effect(path.toStdString());
    std::vector<std::string> ids;
    const auto effect =
        sample.effect ? with_sources_of(*document_.effect(), *sample.effect, ids) : std::nullopt;
    if (!effect) {
        statusBar()->showMessage(tr("Not added: %1")
                                     .arg(sample.problems.empty()
                                              ? tr("there is no room for more elements")
                                              : QString::fromStdString(sample.problems.front().text())),
                                 6000);
        return;
    }
    applyEdit(*effect, tr("add %1").arg(QString::fromStdString(find_element(*effect, ids[0])->name)), {});
    selectNew(ids);
}

void MainWindow::duplicateChosen() {
    std::vector<std::string> copies;
    editChosen(tr("duplicate"), [&copies](const Effect& effect, const std::string& id) {
        return with_duplicate(effect, id, copies.emplace_back());
    });
    selectNew(copies);
}

void MainWindow::copyChosen() {
    QApplication::clipboard()->setText(
        QString::fromStdString(copied_text(*document_.effect(), board_->board()->chosen())));
}

void MainWindow::paste() {
    std::vector<std::string> ids;
    const auto effect =
        with_pasted(*document_.effect(), QApplication::clipboard()->text().toStdString(), ids);
    if (!effect) {
        statusBar()->showMessage(
            tr("Nothing to paste: copy elements first, here or in another window (Ctrl+C)"), 4000);
        return;
    }
    applyEdit(*effect, tr("paste %1").arg(QString::fromStdString(find_element(*effect, ids[0])->name)), {});
    selectNew(ids);
}

void MainWindow::moveChosen(int by) {
    // Away from where they go, so that none has another one of them in its way.
    std::vector<std::string> ids = board_->board()->chosen();
    if (by > 0) {
        std::reverse(ids.begin(), ids.end());
    }
    Effect effect = *document_.effect();
    for (const std::string& id : ids) {
        effect = with_moved(effect, id, by);
    }
    if (effect != *document_.effect()) {
        applyEdit(effect, tr("move elements"), {});
    }
}

void MainWindow::groupChosen() {
    std::vector<std::string> rows = board_->board()->chosen();
    std::erase_if(rows, [this](const std::string& id) {
        return family_of(find_element(*document_.effect(), id)->body) == Family::source;
    });
    if (rows.empty()) {
        statusBar()->showMessage(tr("Only rows can be grouped: forces, colliders, movers, modulators"), 4000);
        return;
    }
    QStringList groups;
    for (const Element& element : document_.effect()->elements) {
        const QString group = QString::fromStdString(element.group);
        if (!group.isEmpty() && !groups.contains(group)) {
            groups << group;
        }
    }
    const QString now = QString::fromStdString(find_element(*document_.effect(), rows[0])->group);
    groups.prepend(now.isEmpty() ? QString() : now);
    groups.removeDuplicates();
    bool ok = false;
    const QString name = QInputDialog::getItem(this, tr("Group"), tr("Name of the group; empty for none:"),
                                               groups, 0, true, &ok);
    if (ok) {
        applyEdit(with_group(*document_.effect(), rows, group_name(name)), tr("group"), {});
    }
}

void MainWindow::renameGroup(const std::string& group) {
    bool ok = false;
    const QString name = QInputDialog::getText(this, tr("Rename the group"), tr("Name; empty for no group:"),
                                               QLineEdit::Normal, QString::fromStdString(group), &ok);
    std::vector<std::string> members;
    for (const Element& element : document_.effect()->elements) {
        if (element.group == group) {
            members.push_back(element.id);
        }
    }
    if (ok) {
        applyEdit(with_group(*document_.effect(), members, group_name(name)), tr("rename a group"), {});
    }
}

void MainWindow::removeChosen() {
    editChosen(tr("delete"),
               [](const Effect& effect, const std::string& id) { return without_element(effect, id); });
}

// A word of a sentence on the board, changed where it stands.
void MainWindow::editWord(const std::string& id, const std::string& key, const QPoint& place) {
    const auto holder = find_holder(*document_.effect(), id);
    const Parameter* parameter = holder ? holder->find(key) : nullptr;
    if (parameter == nullptr) {
        return;
    }
    word_editor_ = new WordEditor(document_.effect(), id, *parameter, this);
    connect(word_editor_, &WordEditor::edited, this, &MainWindow::applyEdit);
    word_editor_->move(place);
    word_editor_->show();
    if (QWidget* first = word_editor_->row()->nextInFocusChain()) {
        first->setFocus();
    }
}

} // namespace ember
