// The machine that the effect is for: this one, or another whose profile is known. What this one takes is
// measured when it is first needed, and kept.
#pragma once

#include "core/budget/machine.h"
#include "desktop/workbench/beside.h"

#include <QString>

#include <optional>
#include <vector>

namespace ember {

class Machines : public QObject {
    Q_OBJECT

  public:
    /// `folder`: where this machine's own profile is kept. `turns`: of what plays, while it is measured.
    Machines(const QString& folder, Turns& turns);

    /// Those that come with the program, invented ones.
    static std::vector<MachineProfile> known();

    /// Nothing: this machine.
    const std::optional<MachineProfile>& chosen() const { return chosen_; }
    /// What is measured here is predicted for that machine from then on; once this one has been measured.
    void choose(const MachineProfile& there);
    void chooseThis();
    /// Anew, as after a change of the machine.
    void measureThis();
    bool isMeasuring() const { return beside_.isRunning(); }
    void stopMeasuring() { beside_.cancel(); }
    /// Of what is shown to what is measured.
    const MachineRatio& ratio() const { return ratio_; }
    bool isPredicting() const { return chosen_ && here_; }

  signals:
    /// What is chosen, or what is known of this machine.
    void changed();
    void measuring(double share);
    void failed(const QString& why);

  private:
    void use();
    std::filesystem::path path() const;

    QString folder_;
    Turns& turns_;
    std::optional<MachineProfile> chosen_, here_;
    MachineRatio ratio_;
    Beside beside_; // the first to go: its work tells the others
};

} // namespace ember
