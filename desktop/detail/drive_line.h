// Below a parameter that is driven: what drives which part of it, over which range.
#pragma once

#include "core/effect/drive.h"

#include <QWidget>

class QToolButton;

namespace ember {

class NumberField;

class DriveLine : public QWidget {
    Q_OBJECT

  public:
    DriveLine(const Drive& drive, const Parameter& parameter, const QString& modulator_name, QWidget* parent);

    const Drive& drive() const { return drive_; }
    NumberField* lowField() const { return low_; }
    NumberField* highField() const { return high_; }
    /// Shows another range or name of the same drive. `others`: what else the modulator drives.
    void setDrive(const Drive& drive, const QString& modulator_name, const QStringList& others);
    QToolButton* sharedChip() const { return shared_; }

  signals:
    void rangeTyped(float low, float high);
    /// The modulator's name was pressed.
    void modulatorPressed();
    /// The drive shall have a modulator of its own.
    void ownRequested();

  private:
    void offerOwn();

    Drive drive_;
    QString part_;
    QToolButton* name_;
    QToolButton* shared_;
    QStringList others_;
    NumberField* low_;
    NumberField* high_;
};

} // namespace ember
