// What the sheets have in common that run a span of the effect again and again beside the effect that plays:
// which span, the press that begins and stops, how far it is, and what came of it in words.
#pragma once

#include "core/budget/trial.h"
#include "desktop/workbench/beside.h"
#include "render/camera.h"

#include <QDialog>

#include <optional>

class QHBoxLayout;
class QLabel;
class QProgressBar;
class QPushButton;

namespace ember {

class NumberField;
class Workbench;

class MeasuringSheet : public QDialog {
    Q_OBJECT

  public:
    NumberField* fromField() const { return from_; }
    NumberField* toField() const { return to_; }
    QPushButton* startButton() const { return start_; }
    QLabel* words() const { return words_; }
    bool isRunning() const { return beside_.isRunning(); }

  protected:
    /// Pictures are of the size `pixels`, through `camera`: as the live view draws them, so that their
    /// milliseconds are those of the live view. `start_words`: on the press that begins.
    MeasuringSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span,
                   const QString& start_words, QWidget* parent);
    /// Stops the work, waiting for it: its last words would be about members that are gone. For the
    /// destructor of whoever inherits.
    void endWork();

    QLabel* quiet(const QString& text);
    /// The line at the top: the span, then a number of the sheet's own between words, the press, the
    /// progress.
    QHBoxLayout* firstLine(const QString& before, NumberField* own, const QString& after);
    /// Why it cannot be measured; nothing if it can.
    std::optional<QString> refusalOf(const Span& span) const;
    Span span() const;
    std::function<DrawMoment()> painter() const;
    /// The press says what it does now, and progress is seen while it runs.
    void showRunning();
    virtual void begin() = 0;
    virtual void showState() = 0;

    Workbench& bench_;
    QSize pixels_;
    QProgressBar* progress_;
    QLabel* words_;
    Beside beside_;

  private:
    Camera camera_;
    QString start_words_;
    NumberField* from_;
    NumberField* to_;
    QPushButton* start_;
};

} // namespace ember
