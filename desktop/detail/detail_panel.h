// The selected element's parameters, in the groups of its table, and what it costs now.
#pragma once

#include "core/effect/parameter.h"
#include "desktop/controls/screen_colour.h"
#include "desktop/workbench/readings.h"

#include <QWidget>

#include <map>
#include <optional>
#include <set>
#include <vector>

class QLabel;
class QLineEdit;
class QScrollArea;
class QToolButton;
class QVBoxLayout;

namespace ember {

class CostRanking;
class ParameterRow;

class DetailPanel : public QWidget {
    Q_OBJECT

  public:
    explicit DetailPanel(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect);
    /// The id of an element, stage_id or budget_id.
    void setSelection(const std::string& id);
    /// What is keyed or driven, as it is now.
    void setDriven(const Readings& readings);
    void setFigures(const Readings& readings, const SmoothedCosts& costs);
    /// The moment that is shown (s), where keys are put; comes with every picture.
    void setNow(double time_s) { now_s_ = time_s > 0 ? time_s : 0; }
    /// Where the effect's files lie, and what is wrong with those of the selected element (empty: nothing).
    void setFiles(const QString& folder, const QString& problem);

    /// Puts the cursor into the name.
    void rename();
    /// Where the keyboard goes when it comes to this panel.
    QWidget* firstField() const;
    /// Brings a parameter's row into sight and puts the keyboard there.
    void goTo(const std::string& holder_id, const std::string& key);
    /// Only parameters with these letters in their names; empty: all.
    QLineEdit* filterField() const { return filter_; }
    /// Offers the sections to go to.
    QToolButton* sectionsButton() const { return sections_; }
    /// The heading of a section, which folds it; for tests.
    QLabel* heading(const QString& text) const;
    /// Opens the curve or ramp of a parameter for editing.
    void openEditor(const std::string& key);
    /// With the budget; else nullptr.
    CostRanking* ranking() const { return ranking_; }
    /// The row of a parameter of what is shown, or nullptr; for tests.
    ParameterRow* row(const std::string& holder_id, const std::string& key);

  signals:
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();
    void selectRequested(const std::string& id);
    /// See ParameterRow.
    void tryAsked(const std::string& holder, const std::string& parameter);
    void compareAsked(const std::string& holder, const std::string& parameter);
    /// See ParameterRow.
    void textureRequested(const std::string& id);
    /// See ParameterRow.
    void pickRequested(const ember::TakeColour& take);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void takeName();
    void leaveName();
    struct Line {
        std::string holder; // id
        const Parameter* parameter;
        QLabel* heading;   // of the group
        ParameterRow* row; // nullptr until it is first needed
        std::optional<Value> shown;
    };

    void keepValue(const std::string& holder_id, const Parameter& parameter);
    std::vector<Value> earlierValues(const std::string& holder_id, const Parameter& parameter,
                                     const Value& now) const;
    void rebuild();
    void addSection(const std::string& holder_id, const QString& prefix);
    QLabel* addHeading(const QString& text);
    void fillSections();
    void keepScrollPlace();
    std::string kindOf(const std::string& id) const;
    void makeRow(Line& line);
    void connectDrives(ParameterRow* row, const std::string& holder_id);
    void showRows();
    void showWarning();
    void showCaution(ParameterRow* row, const Effect& edited_effect);
    void showValues();
    /// As it is set, or as it is keyed now.
    Value valueOf(const Line& line, const Holder& holder) const;
    void connectKeys(ParameterRow* row, const std::string& holder_id);
    std::string lookId() const;
    std::string signature() const;

    EffectPtr effect_;
    std::string selection_;
    std::string built_for_; // signature of what the rows were made for
    std::vector<Line> lines_;
    double now_s_ = 0;                                      // the moment that is shown
    std::map<std::string, std::vector<Value>> kept_values_; // by holder and key, newest first
    int gestures_ = 0;
    bool in_gesture_ = false;

    QLineEdit* filter_;
    QToolButton* sections_;
    std::set<QString> folded_;                 // sections, by their names
    std::map<std::string, int> scroll_places_; // by kind of element
    QLineEdit* name_;
    QLabel* type_;
    QToolButton* mute_;
    QToolButton* solo_;
    QWidget* rows_ = nullptr;
    QVBoxLayout* scroll_layout_;
    QScrollArea* scroll_;
    QLabel* look_note_ = nullptr;
    QToolButton* own_look_ = nullptr;
    CostRanking* ranking_ = nullptr; // of the budget
    QLabel* warning_;
    QString folder_;
    QString file_problem_;
    QLabel* costs_;
};

} // namespace ember
