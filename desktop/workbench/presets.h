// What the artist keeps for other effects: elements, looks and whole starts. Each is an effect file of its
// own in a folder, with the files that it names beside it.
#pragma once

#include "core/base/problem.h"
#include "core/effect/effect.h"

#include <QString>

#include <optional>
#include <vector>

namespace ember {

/// Puts copies of the files that an effect names into another folder. The first that cannot be written, or
/// nothing; what is there already is left as it is.
std::optional<QString> bring_files(const Effect& effect, const QString& from, const QString& to);

class Presets {
  public:
    enum class Kind { elements, look, start };
    struct Preset {
        QString name, path;
    };

    explicit Presets(const QString& folder) : folder_(folder) {}

    /// By name.
    std::vector<Preset> list(Kind kind) const;
    /// Which kind a file is, if it is one of them.
    std::optional<Kind> kindOf(const QString& path) const;

    /// Keeps elements with their links, looks, drives and tracks, and the stage to show them on; a look with
    /// a source that wears it. What had this name before is replaced.
    std::optional<Problem> keepElements(Kind kind, const Effect& effect, const std::vector<std::string>& ids,
                                        const QString& name, const QString& folder) const;
    std::optional<Problem> keepStart(Effect effect, const QString& name, const QString& folder) const;
    /// False if it is not there, or none of them.
    bool remove(const QString& path) const;

  private:
    QString folderOf(Kind kind) const;
    QString freePath(Kind kind, const QString& name) const;
    std::optional<Problem> keep(Kind kind, Effect effect, const QString& name, const QString& folder) const;

    QString folder_;
};

} // namespace ember
