#include "desktop/workbench/machines.h"

#include "core/base/file.h"
#include "desktop/workbench/shipped.h"
#include "render/machine_probe.h"

#include <QDir>

namespace ember {

Machines::Machines(const QString& folder, Turns& turns) : folder_(folder), turns_(turns) {
    connect(&beside_, &Beside::finished, this, &Machines::changed);
}

std::filesystem::path Machines::path() const {
    return (folder_ + "/this-machine.profile.json").toStdString();
}

std::vector<MachineProfile> Machines::known() {
    std::vector<MachineProfile> profiles;
    const QDir folder(shipped_folder("machines"));
    for (const QString& name : folder.entryList({"*.profile.json"}, QDir::Files, QDir::Name)) {
        Problems problems;
        if (auto profile = read_profile(folder.filePath(name).toStdString(), problems)) {
            profiles.push_back(std::move(*profile));
        }
    }
    return profiles;
}

void Machines::choose(const MachineProfile& there) {
    chosen_ = there;
    if (!here_) {
        Problems problems; // none yet, or a damaged one: it is measured
        here_ = std::filesystem::exists(path()) ? read_profile(path(), problems) : std::nullopt;
    }
    here_ ? use() : measureThis();
    emit changed();
}

void Machines::chooseThis() {
    beside_.cancel();
    chosen_.reset();
    use();
    emit changed();
}

void Machines::use() {
    ratio_ = isPredicting() ? ratio_of(*chosen_, *here_) : same_machine;
}

void Machines::measureThis() {
    const RunTrials run = beside_.inTurns(turns_);
    beside_.start([this, run] {
        const auto measured = measured_machine("this machine", run, [this](double share) {
            beside_.tell([this, share] { emit measuring(share); });
        });
        if (measured) {
            beside_.tell([this, profile = *measured] {
                here_ = profile;
                use();
                QDir().mkpath(folder_);
                const auto problem =
                    write_file(path(), [&](std::ostream& stream) { stream << text_of(profile); });
                if (problem) {
                    emit failed(QString::fromStdString(problem->text()));
                }
            });
        }
    });
}

} // namespace ember
