// One parameter of an element, to be changed where it is read: a small window that closes by itself.
#pragma once

#include "core/effect/parameter.h"

#include <QFrame>

namespace ember {

class ParameterRow;

class WordEditor : public QFrame {
    Q_OBJECT

  public:
    /// Of this element's parameter; deletes itself once it is closed.
    WordEditor(const EffectPtr& effect, const std::string& id, const Parameter& parameter, QWidget* parent);

    void setEffect(const EffectPtr& effect);
    ParameterRow* row() const { return row_; }

  signals:
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);

  private:
    EffectPtr effect_;
    std::string id_;
    ParameterRow* row_;
    int gestures_ = 0;
};

} // namespace ember
