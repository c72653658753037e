// The window's commands on elements: those that are chosen on the board.
#include "desktop/main_window.h"

#include "core/effect/edit.h"
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
#include <QMessageBox>

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
    using Run = void (Workbench::*)(const std::vector<std::string>& ids);
    const auto on_elements = [&](const QString& text, const QString& keys, const QString& tip, auto run) {
        element_commands_.push_back(command(menu, text, QKeySequence(keys), tip, run));
    };
    const auto on_chosen = [&](const QString& text, const char* keys, const QString& tip, Run run) {
        on_elements(text, QLatin1String(keys), tip,
                    [this, run] { (workbench_.*run)(board_->board()->chosen()); });
    };
    on_elements(tr("Copy"), tr("Ctrl+C"),
                tr("Copies what is chosen with links, looks and drives, also for another window"),
                [this] { QApplication::clipboard()->setText(workbench_.copied(board_->board()->chosen())); });
    command(menu, tr("Paste"), QKeySequence(tr("Ctrl+V")), tr("Adds the elements that were copied"),
            [this] { workbench_.addCopied(QApplication::clipboard()->text()); });
    on_elements(tr("Move earlier"), tr("Ctrl+Up"), tr("Before the one above it, among its kind"),
                [this] { workbench_.move(board_->board()->chosen(), -1); });
    on_elements(tr("Move later"), tr("Ctrl+Down"), tr("Behind the one below it, among its kind"),
                [this] { workbench_.move(board_->board()->chosen(), 1); });
    on_elements(tr("Group..."), tr("Ctrl+G"), tr("Puts the chosen rows under a heading of their own"),
                [this] { groupChosen(); });
    on_chosen(tr("Duplicate"), "Ctrl+D", tr("A copy with the same links; a source's look is shared"),
              &Workbench::duplicate);
    on_elements(tr("Rename"), tr("F2"), tr("Type another name"), [this] { detail_->rename(); });
    on_chosen(tr("Delete"), "Del", tr("Take the chosen elements off the board"), &Workbench::remove);
    on_elements(tr("Keep as a preset..."), {}, tr("With links, looks and drives, for other effects"),
                [this] { keepPreset(Presets::Kind::elements); });
    on_elements(tr("Keep its look..."), {}, tr("The source's look, for other sources and effects"),
                [this] { keepPreset(Presets::Kind::look); });
    on_elements(tr("Wear a kept look..."), {}, tr("Gives the chosen sources a look that was kept"),
                [this] { wearLook(); });
    on_chosen(tr("Mute"), "M", tr("As if it were not there, and back"), &Workbench::toggleMuted);
    on_chosen(tr("Solo"), "S", tr("Only the soloed ones of its side, and back"), &Workbench::toggleSolo);
}

void MainWindow::chooseToAdd(Family first, Family last) {
    const QString title = first == Family::source  ? tr("Add a source")
                          : first == Family::force ? tr("Add an influence")
                                                   : tr("Add a mover, light or modulator");
    Gallery gallery(title, offers_to_add(first, last, workbench_.presets()), this);
    letRemove(gallery);
    if (gallery.exec() == QDialog::Accepted) {
        add(gallery.chosen().key);
    }
}

void MainWindow::add(const QString& key) {
    if (const ElementType* type = find_type(key.toStdString())) {
        workbench_.add(*type);
    } else {
        workbench_.presets().kindOf(key) ? workbench_.addPreset(key) : workbench_.addSourcesOf(key);
    }
}

void MainWindow::letRemove(Gallery& gallery) {
    connect(&gallery, &Gallery::removed, this,
            [this](const QString& path) { workbench_.presets().remove(path); });
}

// Of those that are chosen.
std::vector<std::string> MainWindow::chosenSources() const {
    std::vector<std::string> ids = board_->board()->chosen();
    std::erase_if(ids, [this](const std::string& id) {
        return !std::holds_alternative<Emitter>(find_element(*workbench_.effect(), id)->body);
    });
    return ids;
}

void MainWindow::keepPreset(Presets::Kind kind) {
    const bool is_look = kind == Presets::Kind::look;
    const std::vector<std::string> ids = kind == Presets::Kind::start ? std::vector<std::string>()
                                         : is_look                    ? chosenSources()
                                                                      : board_->board()->chosen();
    if (is_look && ids.empty()) {
        return say(tr("Only emitters wear looks: select one first"), 4000);
    }
    const Effect& effect = *workbench_.effect();
    const std::string suggested =
        ids.empty() ? effect.name
        : is_look   ? find_look(effect, std::get<Emitter>(find_element(effect, ids.front())->body).look)->name
                    : find_element(effect, ids.front())->name;
    bool ok = false;
    const QString name = QInputDialog::getText(this, tr("Keep"), tr("Under which name:"), QLineEdit::Normal,
                                               QString::fromStdString(suggested), &ok);
    if (!ok || name.trimmed().isEmpty()) {
        return;
    }
    const auto kept = workbench_.presets().list(kind);
    const bool is_there = std::any_of(
        kept.begin(), kept.end(), [&](const Presets::Preset& each) { return each.name == name.trimmed(); });
    if (!is_there || QMessageBox::question(this, tr("Keep"),
                                           tr("\"%1\" is there already. Replace it?").arg(name.trimmed())) ==
                         QMessageBox::Yes) {
        workbench_.keepPreset(kind, ids, name);
    }
}

void MainWindow::wearLook() {
    const std::vector<std::string> sources = chosenSources();
    std::vector<Offer> offers = offers_of_looks(workbench_.presets());
    if (sources.empty() || offers.empty()) {
        return say(sources.empty() ? tr("Only emitters wear looks: select one first")
                                   : tr("No look has been kept yet: Element, Keep its look"),
                   5000);
    }
    Gallery gallery(tr("Wear a look"), std::move(offers), this);
    letRemove(gallery);
    if (gallery.exec() == QDialog::Accepted) {
        workbench_.wearLook(gallery.chosen().key, sources);
    }
}

void MainWindow::groupChosen() {
    std::vector<std::string> rows = board_->board()->chosen();
    std::erase_if(rows, [this](const std::string& id) {
        return family_of(find_element(*workbench_.effect(), id)->body) == Family::source;
    });
    if (rows.empty()) {
        say(tr("Only rows can be grouped: forces, colliders, movers, modulators"), 4000);
        return;
    }
    QStringList groups;
    for (const Element& element : workbench_.effect()->elements) {
        const QString group = QString::fromStdString(element.group);
        if (!group.isEmpty() && !groups.contains(group)) {
            groups << group;
        }
    }
    const QString now = QString::fromStdString(find_element(*workbench_.effect(), rows[0])->group);
    groups.prepend(now.isEmpty() ? QString() : now);
    groups.removeDuplicates();
    bool ok = false;
    const QString name = QInputDialog::getItem(this, tr("Group"), tr("Name of the group; empty for none:"),
                                               groups, 0, true, &ok);
    if (ok) {
        workbench_.edit(with_group(*workbench_.effect(), rows, group_name(name)), tr("group"));
    }
}

void MainWindow::renameGroup(const std::string& group) {
    bool ok = false;
    const QString name = QInputDialog::getText(this, tr("Rename the group"), tr("Name; empty for no group:"),
                                               QLineEdit::Normal, QString::fromStdString(group), &ok);
    std::vector<std::string> members;
    for (const Element& element : workbench_.effect()->elements) {
        if (element.group == group) {
            members.push_back(element.id);
        }
    }
    if (ok) {
        workbench_.edit(with_group(*workbench_.effect(), members, group_name(name)), tr("rename a group"));
    }
}

// A word of a sentence on the board, changed where it stands.
void MainWindow::editWord(const std::string& id, const std::string& key, const QPoint& place) {
    const auto holder = find_holder(*workbench_.effect(), id);
    const Parameter* parameter = holder ? holder->find(key) : nullptr;
    if (parameter == nullptr) {
        return;
    }
    word_editor_ = new WordEditor(workbench_.effect(), id, *parameter, this);
    connect(word_editor_, &WordEditor::edited, &workbench_, &Workbench::edit);
    word_editor_->move(place);
    word_editor_->show();
    if (QWidget* first = word_editor_->row()->nextInFocusChain()) {
        first->setFocus();
    }
}

} // namespace ember
