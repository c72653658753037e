// What the artist does with elements.
#include "desktop/workbench/workbench.h"

#include "core/assets/assets.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/paste.h"

#include <QDir>
#include <QFileInfo>

#include <algorithm>

namespace ember {

namespace {

QString name_of(const Effect& effect, const std::string& id) {
    return QString::fromStdString(find_element(effect, id)->name);
}

} // namespace

// One edit of them all.
void Workbench::editEach(const QString& what, const std::vector<std::string>& ids,
                         const std::function<Effect(const Effect&, const std::string&)>& change) {
    Effect next = *effect();
    for (const std::string& id : ids) {
        next = change(next, id);
    }
    const QString whom = ids.size() == 1 ? name_of(*effect(), ids[0]) : tr("%1 elements").arg(ids.size());
    if (next != *effect()) {
        edit(next, what + " " + whom);
    }
}

// If the edit that made them was taken.
void Workbench::chooseNew(const std::vector<std::string>& ids) {
    if (!ids.empty() && find_element(*effect(), ids.front()) != nullptr) {
        select(ids.front());
        emit chosen(ids);
    }
}

void Workbench::add(const ElementType& type) {
    std::string id;
    const Effect next = with_new_element(*effect(), type, id);
    edit(next, tr("add %1").arg(name_of(next, id)));
    chooseNew({id});
}

void Workbench::addSourcesOf(const QString& path) {
    const ReadResult sample = read_effect(path.toStdString());
    std::vector<std::string> ids;
    const auto next = sample.effect ? with_sources_of(*effect(), *sample.effect, ids) : std::nullopt;
    if (!next) {
        emit said(tr("Not added: %1")
                      .arg(sample.problems.empty() ? tr("there is no room for more elements")
                                                   : QString::fromStdString(sample.problems.front().text())),
                  6000);
        return;
    }
    edit(*next, tr("add %1").arg(name_of(*next, ids[0])));
    chooseNew(ids);
}

void Workbench::addCopied(const QString& text) {
    std::vector<std::string> ids;
    const auto next = with_pasted(*effect(), text.toStdString(), ids);
    if (!next) {
        emit said(tr("Nothing to paste: copy elements first, here or in another window (Ctrl+C)"), 4000);
        return;
    }
    edit(*next, tr("paste %1").arg(name_of(*next, ids[0])));
    chooseNew(ids);
}

bool Workbench::bringFilesOf(const Effect& part, const QString& path) {
    if (needs_of(part).empty()) {
        return true;
    }
    if (document_.folder().isEmpty()) {
        emit said(tr("It comes with files, which lie beside the effect: save the effect first (Ctrl+S)"),
                  8000);
        return false;
    }
    if (const auto refused = bring_files(part, QFileInfo(path).path(), document_.folder())) {
        emit said(tr("Not added: %1 cannot be written").arg(*refused), 8000);
        return false;
    }
    return true;
}

void Workbench::addPreset(const QString& path) {
    const ReadResult preset = read_effect(path.toStdString());
    if (!preset.effect) {
        emit said(tr("Not added: %1").arg(QString::fromStdString(preset.problems.front().text())), 6000);
    } else if (bringFilesOf(*preset.effect, path)) {
        addCopied(QString::fromStdString(effect_text(*preset.effect)));
    }
}

void Workbench::wearLook(const QString& path, const std::vector<std::string>& sources) {
    const ReadResult preset = read_effect(path.toStdString());
    if (!preset.effect || !bringFilesOf(*preset.effect, path)) {
        return;
    }
    // The look comes with a source that wears it, which goes again.
    std::vector<std::string> ids;
    auto next = with_pasted(*effect(), effect_text(*preset.effect), ids);
    const auto* worn = next ? std::get_if<Emitter>(&find_element(*next, ids.front())->body) : nullptr;
    if (worn == nullptr) {
        emit said(tr("Not worn: the effect has as many elements as it may have"), 6000);
        return;
    }
    const std::string look = worn->look;
    for (const std::string& id : sources) {
        const Holder holder = *find_holder(*next, id);
        if (const Parameter* parameter = holder.find("look")) {
            *next = with_value(*next, id, *parameter, look);
        }
    }
    for (const std::string& id : ids) {
        *next = without_element(*next, id);
    }
    edit(*next, tr("wear %1").arg(QString::fromStdString(preset.effect->name)));
}

void Workbench::keepPreset(Presets::Kind kind, const std::vector<std::string>& ids, const QString& name) {
    const auto problem = kind == Presets::Kind::start
                             ? presets_.keepStart(*effect(), name, document_.folder())
                             : presets_.keepElements(kind, *effect(), ids, name, document_.folder());
    emit said(problem ? tr("Not kept: %1").arg(QString::fromStdString(problem->text()))
                      : tr("Kept: %1").arg(name.trimmed()),
              problem ? 8000 : 4000);
}

QString Workbench::copied(const std::vector<std::string>& ids) const {
    return QString::fromStdString(copied_text(*effect(), ids));
}

void Workbench::duplicate(const std::vector<std::string>& ids) {
    std::vector<std::string> copies;
    editEach(tr("duplicate"), ids, [&copies](const Effect& effect, const std::string& id) {
        return with_duplicate(effect, id, copies.emplace_back());
    });
    chooseNew(copies);
}

void Workbench::remove(const std::vector<std::string>& ids) {
    editEach(tr("delete"), ids,
             [](const Effect& effect, const std::string& id) { return without_element(effect, id); });
}

void Workbench::move(std::vector<std::string> ids, int by) {
    // Away from where they go, so that none has another one of them in its way.
    if (by > 0) {
        std::reverse(ids.begin(), ids.end());
    }
    Effect next = *effect();
    for (const std::string& id : ids) {
        next = with_moved(next, id, by);
    }
    if (next != *effect()) {
        edit(next, tr("move elements"));
    }
}

void Workbench::toggleMuted(const std::vector<std::string>& ids) {
    const bool muted = !selectedElement()->muted;
    editEach(muted ? tr("mute") : tr("unmute"), ids,
             [muted](const Effect& effect, const std::string& id) { return with_muted(effect, id, muted); });
}

void Workbench::toggleSolo(const std::vector<std::string>& ids) {
    const bool solo = !selectedElement()->solo;
    editEach(tr("solo"), ids,
             [solo](const Effect& effect, const std::string& id) { return with_solo(effect, id, solo); });
}

std::map<std::string, double> Workbench::clipLengths() const {
    std::map<std::string, double> lengths;
    bool complete = false;
    const Assets known = loader_.known(document_.effect(), document_.folder(), complete);
    for (const Element& element : document_.effect()->elements) {
        for (const AssetNeed& need : needs_of(element, document_.effect()->seed)) {
            if (const auto clip = known.find<Clip>(need.key())) {
                lengths[element.id] = clip->length_s();
            } else if (const auto smoke = known.find<SmokeClip>(need.key())) {
                lengths[element.id] = smoke->length_s();
            } else if (const auto pieces = known.find<PieceClip>(need.key())) {
                lengths[element.id] = pieces->length_s();
            }
        }
    }
    return lengths;
}

bool Workbench::bringFile(const QString& path, std::string& inside) {
    const QString folder = document_.folder();
    if (folder.isEmpty()) {
        emit said(tr("Save the effect first: the files that it uses lie beside it."), 10000);
        return false;
    }
    QString name = QDir(folder).relativeFilePath(path);
    if (name.startsWith("..") || QDir::isAbsolutePath(name)) {
        name = QFileInfo(path).fileName();
        const QString copy = QDir(folder).filePath(name);
        if (!QFileInfo::exists(copy) && !QFile::copy(path, copy)) {
            emit said(tr("Not copied: %1 cannot be written.").arg(copy), 10000);
            return false;
        }
    }
    inside = name.toStdString();
    return true;
}

namespace {

// Takes what was baked of an element in its place: `first` is its file.
void play_baked(ClipPlay& play, const QString& first, double start_s) {
    play.clip = first.toStdString();
    play.clip_start = float(start_s);
    play.clip_from = play.clip_to = 0;
    play.clip_speed = 1;
}

} // namespace

void Workbench::layClips(const Effect& baked, const QString& folder, double start_s) {
    const QString inside = QDir(document_.folder()).relativeFilePath(folder);
    if (document_.folder().isEmpty() || inside.startsWith("..") || QDir::isAbsolutePath(inside)) {
        return emit said(
            tr("Not laid: what was baked has to lie in the folder of the effect's own file, or below it."),
            8000);
    }
    const auto first = [&](const char* name) {
        return QFileInfo::exists(QDir(folder).filePath(name)) ? QDir(inside).filePath(name) : QString();
    };
    const QString particles = first("particles/00000.ply"), smoke = first("smoke/00000.vdb"),
                  pieces = first("pieces.glb");
    Effect laid = *effect();
    int sources = 0, volumes = 0;
    std::set<std::string> bodies; // as their file has them
    for (const Element& each : baked.elements) {
        if (std::holds_alternative<Breakable>(each.body) && is_active(baked, each)) {
            bodies.insert(each.id);
        }
    }
    std::string last;
    const auto lay = [&](const Element& of, auto body) {
        last = free_id(laid, of.name + " clip");
        laid = with_element(laid, {.id = last, .name = of.name + " clip", .body = std::move(body)});
    };
    for (const Element& each : baked.elements) {
        const auto* emitter = std::get_if<Emitter>(&each.body);
        const auto* volume = std::get_if<Smoke>(&each.body);
        const auto* breakable = std::get_if<Breakable>(&each.body);
        if (emitter != nullptr && !particles.isEmpty()) {
            Emitter clip = *emitter;
            play_baked(clip, particles, start_s);
            clip.shape = BirthShape::clip;
            clip.clip_source = ++sources;
            clip.position = clip.turn = {};
            clip.rides_on.clear();
            clip.parent.clear();
            if (find_look(laid, clip.look) == nullptr) {
                clip.look = laid.looks.front().id;
            }
            lay(each, clip);
        } else if (volume != nullptr && !each.muted && !smoke.isEmpty()) {
            Smoke clip = *volume;
            play_baked(clip, smoke, start_s);
            clip.clip_volume = ++volumes;
            lay(each, clip);
        } else if (breakable != nullptr && bodies.contains(each.id) && !pieces.isEmpty()) {
            Breakable clip = *breakable;
            play_baked(clip, pieces, start_s);
            clip.clip_body = 1 + int(std::distance(bodies.begin(), bodies.find(each.id)));
            clip.position = clip.turn = {};
            clip.rides_on.clear();
            clip.scale = 1;
            lay(each, clip);
        }
    }
    if (last.empty()) {
        return;
    }
    edit(laid, tr("lay clips"));
    select(last);
}

} // namespace ember
