#include "desktop/workbench/presets.h"

#include "core/assets/assets.h"
#include "core/base/file.h"
#include "core/effect/effect_file.h"
#include "core/effect/paste.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>

#include <algorithm>

namespace ember {

namespace {

const QString ending = QStringLiteral(".ember.json");
constexpr Presets::Kind kinds[] = {Presets::Kind::elements, Presets::Kind::look, Presets::Kind::start};

// What every file system takes of a name.
QString file_name(const QString& name) {
    QString text;
    for (const QChar c : name.trimmed().toLower()) {
        text += c.isLetterOrNumber() ? c : QLatin1Char('-');
    }
    return text.left(60);
}

} // namespace

std::optional<QString> bring_files(const Effect& effect, const QString& from, const QString& to) {
    for (const AssetNeed& need : needs_of(effect)) {
        const QString file = QString::fromStdString(need.file);
        const QString source = from + "/" + file, target = to + "/" + file;
        if (file.isEmpty() || QFileInfo::exists(target) || !QFileInfo::exists(source)) {
            continue;
        }
        QDir().mkpath(QFileInfo(target).path());
        if (!QFile::copy(source, target)) {
            return target;
        }
    }
    return std::nullopt;
}

QString Presets::folderOf(Kind kind) const {
    return folder_ + (kind == Kind::elements ? QStringLiteral("/elements")
                      : kind == Kind::look   ? QStringLiteral("/looks")
                                             : QStringLiteral("/starts"));
}

std::vector<Presets::Preset> Presets::list(Kind kind) const {
    std::vector<Preset> found;
    const QDir folder(folderOf(kind));
    for (const QString& file : folder.entryList({"*" + ending}, QDir::Files)) {
        const QString path = folder.filePath(file);
        if (const ReadResult read = read_effect(path.toStdString()); read.effect) {
            found.push_back({QString::fromStdString(read.effect->name), path});
        }
    }
    std::sort(found.begin(), found.end(),
              [](const Preset& a, const Preset& b) { return a.name.localeAwareCompare(b.name) < 0; });
    return found;
}

std::optional<Presets::Kind> Presets::kindOf(const QString& path) const {
    for (const Kind kind : kinds) {
        if (QFileInfo(path).absolutePath() == QFileInfo(folderOf(kind)).absoluteFilePath()) {
            return kind;
        }
    }
    return std::nullopt;
}

std::optional<Problem> Presets::keepElements(Kind kind, const Effect& effect,
                                             const std::vector<std::string>& ids, const QString& name,
                                             const QString& folder) const {
    Effect part = *parse_effect(copied_text(effect, ids), {}).effect;
    part.stage = effect.stage;
    part.seed = effect.seed;
    return keep(kind, std::move(part), name, folder);
}

std::optional<Problem> Presets::keepStart(Effect effect, const QString& name, const QString& folder) const {
    return keep(Kind::start, std::move(effect), name, folder);
}

std::optional<Problem> Presets::keep(Kind kind, Effect effect, const QString& name,
                                     const QString& folder) const {
    effect.name = name.trimmed().toStdString();
    QDir().mkpath(folderOf(kind));
    if (!folder.isEmpty()) {
        if (const auto refused = bring_files(effect, folder, folderOf(kind))) {
            return Problem{refused->toStdString(), 0, "", "", "a file that can be written"};
        }
    }
    return save_effect(effect, freePath(kind, name.trimmed()).toStdString());
}

// Of the preset with this name, else one that no other name has: names may differ in what files do not say.
QString Presets::freePath(Kind kind, const QString& name) const {
    for (const Preset& preset : list(kind)) {
        if (preset.name == name) {
            return preset.path;
        }
    }
    QString path = folderOf(kind) + "/" + file_name(name) + ending;
    for (int number = 2; QFileInfo::exists(path); ++number) {
        path = folderOf(kind) + "/" + file_name(name) + QStringLiteral("-%1").arg(number) + ending;
    }
    return path;
}

bool Presets::remove(const QString& path) const {
    return kindOf(path).has_value() && QFile::remove(path);
}

} // namespace ember
