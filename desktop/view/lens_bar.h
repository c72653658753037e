// Chooses the lens of the live view: what of the forces is seen, how, and where.
#pragma once

#include "desktop/view/force_lens.h"

#include <QWidget>

class QComboBox;

namespace ember {

class ValueSlider;

class LensBar : public QWidget {
    Q_OBJECT

  public:
    explicit LensBar(QWidget* parent = nullptr);

    /// Sources to choose from, and the influence that is selected (its name empty: none is).
    void setEffect(const Effect& effect, const std::string& selection);
    const ForceLens& lens() const { return lens_; }
    ValueSlider* apartSlider() const { return apart_; }
    void choose(ForceLens::Kind kind);
    /// The next lens, as a shortcut has it.
    void next();

    QComboBox* kindBox() const { return kind_; }
    QComboBox* ofBox() const { return of_; }
    QComboBox* aspectBox() const { return aspect_; }

  signals:
    void changed();

  private:
    void read();

    ForceLens lens_;
    std::string built_for_; // what there was to choose from
    std::string selected_influence_;
    QString chosen_source_; // by hand
    QComboBox* kind_;
    QComboBox* of_;
    QComboBox* aspect_;
    QComboBox* across_;
    ValueSlider* offset_;
    ValueSlider* apart_;
};

} // namespace ember
