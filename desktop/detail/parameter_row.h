// One parameter in the detail panel: a name, and what sets the value. Made from the parameter tables alone.
#pragma once

#include "core/effect/parameter.h"

#include "desktop/controls/screen_colour.h"
#include "desktop/readings.h"

#include <QWidget>

class QLabel;
class QHBoxLayout;
class QVBoxLayout;

namespace ember {

class ParameterRow : public QWidget {
    Q_OBJECT

  public:
    /// The row for a parameter's kind.
    static ParameterRow* make(const Parameter& parameter, QWidget* parent);

    const Parameter& parameter() const { return parameter_; }
    /// Shows a value of the parameter's kind.
    virtual void setValue(const Value& value) = 0;
    /// The effect that a choice of looks comes from.
    virtual void setEffect(const Effect&) {}
    /// Opens what is edited in place, if it has such.
    virtual void openEditor() {}
    /// How far through their lives the particles are that this is about.
    virtual void setSpread(const AgeSpread&) {}
    /// Where the effect's files lie; empty if it was never saved.
    void setFolder(const QString& folder) { folder_ = folder; }

  signals:
    /// `continues`: more of the same gesture will follow, until gestureEnded().
    void edited(const ember::Value& value, bool continues);
    void gestureEnded();
    /// The name was double-clicked.
    void resetRequested();
    /// The colour under the next press in the live view shall go to `take`.
    void pickRequested(const ember::TakeColour& take);

  protected:
    ParameterRow(const Parameter& parameter, QWidget* parent);
    bool eventFilter(QObject* watched, QEvent* event) override;
    QHBoxLayout* line() const { return line_; }
    void addBelow(QWidget* widget);
    const QString& folder() const { return folder_; }

  private:
    const Parameter& parameter_;
    QLabel* name_;
    QVBoxLayout* layout_;
    QHBoxLayout* line_;
    QString folder_;
};

} // namespace ember
