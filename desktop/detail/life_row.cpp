#include "desktop/detail/life_row.h"

#include "desktop/controls/colour_editor.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/curves/curve_editor.h"
#include "desktop/curves/ramp_editor.h"
#include "desktop/detail/life_preview.h"

#include <QDialog>
#include <QHBoxLayout>
#include <QPointer>
#include <QVBoxLayout>

namespace ember {

namespace {

// A preview that opens and closes an editor below it; copies and pastes as text.
class LifeRow : public ParameterRow {
  public:
    LifeRow(const Parameter& parameter, QWidget* parent)
        : ParameterRow(parameter, parent), preview_(new LifePreview(this)) {
        preview_->setToolTip(tipOf(parameter) + tr("\nPress to edit it here, press again to close."));
        preview_->setAccessibleName(qtext(parameter.label));
        line()->addWidget(preview_, 1);
        connect(preview_, &LifePreview::pressed, this, [this] {
            QWidget* body = editor();
            body->setVisible(body->isHidden());
            preview_->setOpen(!body->isHidden());
        });
    }

    void openEditor() override {
        if (editor()->isHidden()) {
            emit preview_->pressed();
        }
    }

  protected:
    /// Made when it is first opened.
    virtual QWidget* editor() = 0;

    LifePreview* preview_;
};

class CurveRow : public LifeRow {
  public:
    using LifeRow::LifeRow;

    void setValue(const Value& value) override {
        curve_ = std::get<Curve>(value);
        preview_->setCurve(curve_);
        if (editor_ != nullptr) {
            editor_->setCurve(curve_);
        }
    }
    void setSpread(const AgeSpread& spread) override {
        if (editor_ != nullptr && editor_->isVisible() && runs_over_life()) {
            editor_->plot()->setSpread(spread);
        }
    }

  protected:
    QWidget* editor() override {
        if (editor_ == nullptr) {
            editor_ = new CurveEditor({float(parameter().hard_low), float(parameter().hard_high)}, this);
            editor_->setCurve(curve_);
            editor_->hide();
            addBelow(editor_);
            CurvePlot* plot = editor_->plot();
            plot->setAccessibleName(qtext(parameter().label));
            if (!runs_over_life()) {
                const bool is_fade = parameter().key == "fade_curve";
                plot->setEnds(is_fade ? tr("surface") : tr("start"),
                              is_fade ? tr("end of the fade") : tr("end"));
            }
            connect(editor_, &CurveEditor::windowAsked, this, &CurveRow::pullOut);
            connect(plot, &CurvePlot::edited, this,
                    [this](const Curve& curve, bool continues) { emit edited(curve, continues); });
            connect(plot, &CurvePlot::gestureEnded, this, &ParameterRow::gestureEnded);
            connect(plot, &CurvePlot::copyRequested, this, &ParameterRow::copyRequested);
            connect(plot, &CurvePlot::pasteRequested, this, [this] { paste(); });
        }
        return editor_;
    }

  private:
    // Into a window of its own, until that is closed.
    void pullOut() {
        if (window_) {
            window_->close();
            return;
        }
        window_ = new QDialog(this);
        window_->setAttribute(Qt::WA_DeleteOnClose);
        window_->setWindowTitle(qtext(parameter().label));
        auto* layout = new QVBoxLayout(window_);
        layout->addWidget(editor_);
        window_->resize(720, 560);
        connect(window_, &QDialog::finished, this, [this] {
            addBelow(editor_);
            editor_->show();
        });
        window_->show();
    }

    bool runs_over_life() const { return parameter().key.ends_with("_over_life"); }

    CurveEditor* editor_ = nullptr;
    QPointer<QDialog> window_;
    Curve curve_;
};

class RampRow : public LifeRow {
  public:
    using LifeRow::LifeRow;

    void setValue(const Value& value) override {
        ramp_ = std::get<Ramp>(value);
        preview_->setRamp(ramp_);
        if (editor_ != nullptr) {
            editor_->setRamp(ramp_);
        }
    }

  protected:
    QWidget* editor() override {
        if (editor_ == nullptr) {
            editor_ = new RampEditor(this);
            editor_->setRamp(ramp_);
            editor_->hide();
            addBelow(editor_);
            RampBand* band = editor_->band();
            band->setAccessibleName(qtext(parameter().label));
            connect(band, &RampBand::edited, this,
                    [this](const Ramp& ramp, bool continues) { emit edited(ramp, continues); });
            connect(band, &RampBand::gestureEnded, this, &ParameterRow::gestureEnded);
            connect(band, &RampBand::copyRequested, this, &ParameterRow::copyRequested);
            connect(band, &RampBand::pasteRequested, this, [this] { paste(); });
            connect(editor_->colour(), &ColourEditor::pickRequested, this, [this] {
                emit pickRequested([this](const Colour& colour) { editor_->colour()->takeTint(colour); });
            });
        }
        return editor_;
    }

  private:
    RampEditor* editor_ = nullptr;
    Ramp ramp_;
};

} // namespace

ParameterRow* make_curve_row(const Parameter& parameter, QWidget* parent) {
    return new CurveRow(parameter, parent);
}

ParameterRow* make_ramp_row(const Parameter& parameter, QWidget* parent) {
    return new RampRow(parameter, parent);
}

} // namespace ember
