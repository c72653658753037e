// One parameter in the detail panel: a name, and what sets the value. Made from the parameter tables alone.
#pragma once

#include "core/effect/track.h"

#include "desktop/controls/screen_colour.h"
#include "desktop/workbench/readings.h"

#include <QWidget>

#include <optional>

class QLabel;
class QPainter;
class QHBoxLayout;
class QMenu;
class QVBoxLayout;

namespace ember {

class DriveLine;

class ParameterRow : public QWidget {
    Q_OBJECT

  public:
    /// The row for a parameter's kind.
    static ParameterRow* make(const Parameter& parameter, QWidget* parent);

    const Parameter& parameter() const { return parameter_; }
    /// Shows a value of the parameter's kind.
    virtual void setValue(const Value& value) = 0;
    /// The effect that a choice of looks or elements comes from, and whose parameter this is.
    virtual void setEffect(const Effect&, const std::string&) {}
    /// Marks the name of what is not as a new one would have it.
    void setChanged(bool changed);
    /// Values to go back to, newest first, as the name's menu offers them.
    void setEarlier(const std::vector<Value>& values) { earlier_ = values; }
    QWidget* nameLabel() const;
    /// What is remembered about the parameter; empty: nothing. A dog-ear in the corner of its name says so.
    void setNote(const QString& text);
    /// Why the value is not wise, said below it; empty: it is.
    void setCaution(const QString& text);
    const QString& caution() const { return caution_; }

    /// What keys the parameter, or nullptr; and the moment that is shown (s).
    void setTrack(const Track* track, double now_s);
    bool isKeyed() const { return track_.has_value(); }
    /// The modulators that there are to be driven by, with their names.
    void setModulatorNames(const Effect& effect, const std::string& holder_id);
    /// What drives the parameter of this holder.
    void setDrives(const Effect& effect, const std::string& holder_id);
    const std::vector<DriveLine*>& driveLines() const { return drive_lines_; }
    /// Offers what may drive it, at a place on the screen; nothing happens if it cannot be driven.
    void offerDrives(const QPoint& place);
    /// Only the value: no drives, notes or earlier values.
    void setPlain();
    /// Shows what is driven as it is now.
    void setModulators(const std::vector<ModulatorValue>& values);

    /// Opens what is edited in place, if it has such.
    virtual void openEditor() {}
    /// How far through their lives the particles are that this is about.
    virtual void setSpread(const AgeSpread&) {}
    /// Where the effect's files lie; empty if it was never saved.
    void setFolder(const QString& folder) { folder_ = folder; }

  signals:
    /// The number shall be tried over a range, side by side.
    void tryAsked();
    /// Two values of it beside one another.
    void compareAsked();
    /// `continues`: more of the same gesture will follow, until gestureEnded().
    void edited(const ember::Value& value, bool continues);
    void gestureEnded();
    /// The name was double-clicked.
    void resetRequested();
    /// The value shall be put on the clipboard.
    void copyRequested();
    /// A modulator (by its id) shall drive a part, over a range about its present value.
    void driveChosen(int part, const std::string& modulator_id);
    /// The same with a new modulator of a type.
    void newDriveChosen(int part, const std::string& type_key);
    void driveRemoved(int part);
    /// A key at the moment that is shown; a key, or the whole track, away.
    void keyAsked();
    void keyRemoved();
    void trackRemoved();
    void driveRangeTyped(const ember::Drive& drive);
    void modulatorRequested(const std::string& modulator_id);
    /// To see a texture on its bench; empty: none in particular.
    void textureRequested(const std::string& texture_id);
    void ownModulatorRequested(const ember::Drive& drive);
    /// What is remembered about the parameter shall be this; empty: nothing.
    void noted(const QString& text);
    /// The colour under the next press in the live view shall go to `take`.
    void pickRequested(const ember::TakeColour& take);

  protected:
    static constexpr int name_width = 92;
    ParameterRow(const Parameter& parameter, QWidget* parent);
    void paintEvent(QPaintEvent*) override;
    void contextMenuEvent(QContextMenuEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dragLeaveEvent(QDragLeaveEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    bool eventFilter(QObject* watched, QEvent* event) override;
    QHBoxLayout* line() const { return line_; }
    void addBelow(QWidget* widget);
    /// Takes over the value on the clipboard, or says why not.
    void paste();
    /// A part is driven over this range, or (nullptr) no more.
    virtual void setDriven(int, const Drive*) {}
    virtual void showDriven(int, float) {}
    const QString& folder() const { return folder_; }

  private:
    const Parameter& parameter_;
    QLabel* name_;
    QVBoxLayout* layout_;
    QHBoxLayout* line_;
    bool canBeDriven() const { return !is_plain_ && driven_parts(parameter_) > 0; }
    /// Which part's field is nearest to a place in the row.
    int partAt(QPoint place) const;
    bool canBeKeyed() const { return !is_plain_ && track_parts(parameter_) > 0 && !is_budget_; }
    bool hasKeyNow() const;
    void paintTrack(QPainter& painter) const;
    void fillDrives(QMenu* menu);
    void offerValues(const QPoint& place);
    void askForNote();
    void showTip();

    QString folder_;
    bool is_changed_ = false;
    QString note_;
    QString caution_;
    std::vector<Value> earlier_;
    std::optional<Track> track_;
    double now_s_ = 0;
    bool is_plain_ = false;
    bool is_budget_ = false;  // or a texture: nothing keys those
    bool takes_drop_ = false; // a modulator is carried over it
    std::vector<DriveLine*> drive_lines_;
    std::vector<std::pair<std::string, std::string>> modulators_; // id and name of all there are
};

} // namespace ember
