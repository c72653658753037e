// The board: sources as a stair, a line each, whose lines step down to their columns; influences as rows; a
// dial for each link. What has no links stands below as chips, triggers as sentences.
//
// Mouse: click selects, with Control or Shift several; a name is dragged to another place; on a dial, drag up
// or down turns it and a click links or unlinks, for all chosen rows and columns that it belongs to.
// A modulator's chip is carried out of the board, onto a number that it shall drive.
// Keyboard: arrows move from cell to cell, + and - turn, Space links or unlinks, Enter takes a typed weight.
#pragma once

#include "core/budget/expected.h"
#include "desktop/board/board_measures.h"
#include "desktop/workbench/readings.h"

#include <QPointer>
#include <QString>
#include <QWidget>

#include <optional>
#include <set>
#include <vector>

class QSpinBox;

namespace ember {

class Board : public QWidget {
    Q_OBJECT

  public:
    explicit Board(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect);
    void setReadings(const Readings& readings, const SmoothedCosts& costs);
    void setSelection(const std::string& id);
    /// Where a row has to be scrolled to from where it is out of sight; nothing if it is seen, or no row.
    std::optional<int> hiddenRow(const std::string& id, int seen_height) const;
    const std::string& selection() const { return selection_; }
    /// The selected element and those chosen with it, in the order of the effect; empty if none is.
    std::vector<std::string> chosen() const;
    /// Chooses these besides the selection.
    void setChosen(const std::vector<std::string>& ids);
    /// The corner of what is seen of the board: names stay there while it is scrolled.
    void setSeenFrom(QPoint corner);
    /// Only rows whose name has this in it; empty: all.
    void setFilter(const QString& text);

    /// Where things stand, for menus, tooltips and tests. Empty if there is no such thing.
    QRect cellRect(const std::string& influence, const std::string& source) const;
    QRect nameRect(const std::string& id) const;
    QRect muteRect(const std::string& id) const;
    QRect soloRect(const std::string& id) const;
    QRect headingRect(Family family, const std::string& group = {}) const;

    QSize sizeHint() const override;
    /// How wide it is with room for every column.
    int wideWidth() const;
    QSize minimumSizeHint() const override { return sizeHint(); }

    /// The trigger and the parameter that the word at a place says; for tests.
    std::optional<std::pair<std::string, std::string>> parameterAt(QPoint place) const;

  signals:
    void selected(const std::string& id);
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();
    void renameRequested(const std::string& id);
    /// The heading of a group was double-clicked.
    void groupRenameRequested(const std::string& group);
    void menuRequested(const std::string& id, const QPoint& place);
    /// A word of a trigger's sentence was pressed, which says this parameter; `place` on the screen.
    void wordPressed(const std::string& id, const std::string& key, const QPoint& place);

  protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseMoveEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;
    void mouseDoubleClickEvent(QMouseEvent* event) override;
    void leaveEvent(QEvent* event) override;
    void resizeEvent(QResizeEvent* event) override;
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    // An element and where it stands, from the left edge of what is seen: a row, a chip or a sentence.
    struct Row {
        size_t element;
        QRect rect;
    };
    // A source: its line of the stair, from the upper edge of what is seen, and the left edge of its dials.
    struct Column {
        size_t element;
        int line;
        int left;
    };
    // Above the rows of a family, or of a group in it, which may be hidden.
    struct Heading {
        Family family;
        std::string group;
        int top;
        int hidden; // rows
    };
    struct Cell {
        std::string influence, source;
        bool operator==(const Cell&) const = default;
    };
    // A dial being turned.
    struct Turning {
        Cell cell;
        QPointF start;
        float weight;
        bool moved = false;
    };
    // A name that was pressed, and may be carried to another place.
    struct Carrying {
        std::string id;
        QPoint start;
        bool keeps_choice; // it was one of several
        bool moved = false;
    };
    // Where what is carried would go.
    struct Drop {
        std::string neighbour;
        bool behind;
        QLine mark;
    };

    // A word of a trigger's sentence, where it stands.
    struct Word {
        QRect rect;
        QString text;
        std::string key; // of the parameter that it says, or empty
    };

    const Element& element(const auto& slot) const { return effect_->elements[slot.element]; }
    /// Whether an element has a cell for each source: movers have none.
    static bool has_links(const Element& element);
    /// What stands on the stair: sources and smoke volumes.
    static bool has_column(const Element& element);
    const Row* rowOf(const std::string& id) const;
    const Column* columnOf(const std::string& id) const;
    /// On the board, scrolled as it is.
    QRect placed(const Row& row) const { return row.rect.translated(corner_.x(), 0); }
    QRect placed(const Column& column) const;
    int seenWidth() const;
    void layOut();
    /// Cost of a row; count and cost of a source.
    QRect figuresRect(const QRect& row) const;
    QRect countRect(const QRect& line) const;
    QRect costRect(const QRect& row) const;
    bool actsOnNothing(const Element& influence) const;
    void addRows(const std::vector<size_t>& elements, int& top);
    void addSection(const Heading& of, const std::vector<size_t>& elements, int& top);
    /// What a chip says besides its name: "on Visitor", "drives 3".
    QString factOf(const Element& element) const;
    QString nameAndFact(const Element& element) const;
    QString chipText(const Element& element) const; // and its cost
    std::optional<Cell> crossingAt(QPoint place) const;
    std::optional<Cell> cellAt(QPoint place) const; // with a dial
    std::optional<Drop> dropAt(QPoint place) const;
    const Heading* headingAt(QPoint place) const;
    std::optional<std::string> nameAt(QPoint place) const;
    std::vector<Word> wordsOf(const Trigger& trigger, QPoint corner, int width) const;
    struct PressedWord {
        const Element* trigger;
        Word word;
    };
    /// Of those that say a parameter.
    std::optional<PressedWord> wordAt(QPoint place) const;
    std::optional<std::string> switchAt(QPoint place, QRect (Board::*rect)(const std::string&) const) const;
    QString tipAt(QPoint place) const;
    QString elementTip(const Element& element) const;

    bool isChosen(const std::string& id) const;
    void choose(const std::string& id, Qt::KeyboardModifiers keys);
    /// The cell, and those that are turned with it.
    std::vector<Cell> cellsWith(const Cell& cell) const;
    std::vector<Cell> wholeRow(const Cell& cell) const;
    std::vector<Cell> wholeColumn(const Cell& cell) const;
    void focusOn(const Cell& cell);
    void pressName(const std::string& id, QPoint place, Qt::KeyboardModifiers keys);
    void toggleLink(const Cell& cell);
    /// Of those that are linked.
    void setWeights(const std::vector<Cell>& cells, float weight, const QString& gesture);
    /// Links the cell and those turned with it, with this weight.
    void linkWith(const Cell& cell, float weight);
    void typeWeight(const Cell& cell);
    void editSentence();
    void moveFocus(int rows, int columns, Qt::KeyboardModifiers keys);
    std::optional<Cell> focusCell() const;
    void hover(QPoint place);
    void carryOut(const std::string& id);

    void paintHeadings(QPainter& painter) const;
    QString sourceCost(const std::string& id) const;
    void paintSource(QPainter& painter, const Column& column) const;
    void paintSteps(QPainter& painter, const Column& column) const;
    void paintRow(QPainter& painter, const Row& row) const;
    void paintName(QPainter& painter, const Row& row) const;
    void paintDials(QPainter& painter, const Row& row) const;
    void paintChip(QPainter& painter, const Row& chip) const;
    void paintSentence(QPainter& painter, const Row& row, const Trigger& trigger) const;
    void paintSwitches(QPainter& painter, const Element& element) const;
    void paintChosen(QPainter& painter, const QRect& rect, const std::string& id) const;
    void paintDial(QPainter& painter, const QRect& rect, const Link* link, bool lively, bool active) const;

    EffectPtr effect_;
    Readings readings_;
    SmoothedCosts costs_;
    std::string selection_;
    std::vector<std::string> also_chosen_; // besides the selection
    BoardMeasures m_;
    QPoint corner_; // see setSeenFrom()
    std::vector<Row> rows_;
    std::vector<Column> columns_; // as the stair goes down: from the last dial to the first
    std::vector<Heading> headings_;
    std::set<std::pair<Family, std::string>> collapsed_;
    QString filter_;
    std::vector<ExpectedCount> expected_; // by element
    int bottom_ = 0;
    int laid_out_for_ = 0;                 // the width that was seen then
    std::string hovered_, hovered_source_; // row, chip or source; source of the dial
    size_t focus_row_ = 0, focus_column_ = 0;
    std::optional<Turning> turning_;
    std::optional<Carrying> carrying_;
    std::optional<Drop> drop_;
    QPointer<QSpinBox> weight_editor_;
    int gestures_ = 0;
};

} // namespace ember
