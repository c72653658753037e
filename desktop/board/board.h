// The board: influences as rows, sources as columns, a dial for each link.
//
// Mouse: click selects, with Control or Shift several; a name is dragged to another place; on a dial, drag up
// or down turns it and a click links or unlinks, for all chosen rows and columns that it belongs to.
// Keyboard: arrows move from cell to cell, + and - turn, Space links or unlinks, Enter takes a typed weight.
#pragma once

#include "core/budget/expected.h"
#include "desktop/board/board_measures.h"
#include "desktop/readings.h"

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
    void wheelEvent(QWheelEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void contextMenuEvent(QContextMenuEvent* event) override;

  private:
    // An element and where it stands: top of a row, left of a column.
    struct Slot {
        size_t element;
        int at;
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

    const Element& element(const Slot& slot) const { return effect_->elements[slot.element]; }
    /// Whether an element has a cell for each source: movers have none.
    static bool has_links(const Element& element);
    void layOut();
    /// Cost of a row, counts of a column.
    QRect figuresRect(const Slot& row) const;
    QRect countsRect(const Slot& column) const;
    bool actsOnNothing(const Element& influence) const;
    void addRows(Family family, const std::string& group, int& top);
    std::optional<Cell> cellAt(QPoint place) const;
    std::optional<Drop> dropAt(QPoint place) const;
    const Heading* headingAt(QPoint place) const;
    std::optional<std::string> nameAt(QPoint place) const;
    std::vector<Word> wordsOf(const Slot& row) const;
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

    void paintHeadings(QPainter& painter) const;
    void paintColumnName(QPainter& painter, const Slot& column) const;
    void paintCounts(QPainter& painter, const Slot& column) const;
    void paintRowName(QPainter& painter, const Slot& row) const;
    void paintDials(QPainter& painter, const Slot& row) const;
    void paintSentence(QPainter& painter, const Slot& row, const Trigger& trigger) const;
    void paintSwitches(QPainter& painter, const Element& element) const;
    void paintDial(QPainter& painter, const QRect& rect, const Link* link, bool lively, bool active) const;

    EffectPtr effect_;
    Readings readings_;
    SmoothedCosts costs_;
    std::string selection_;
    std::vector<std::string> also_chosen_; // besides the selection
    BoardMeasures m_;
    QPoint corner_; // see setSeenFrom()
    std::vector<Slot> rows_, columns_;
    std::vector<Heading> headings_;
    std::set<std::pair<Family, std::string>> collapsed_;
    QString filter_;
    std::vector<ExpectedCount> expected_; // by element
    int bottom_ = 0;
    size_t focus_row_ = 0, focus_column_ = 0;
    std::optional<Turning> turning_;
    std::optional<Carrying> carrying_;
    std::optional<Drop> drop_;
    QPointer<QSpinBox> weight_editor_;
    int gestures_ = 0;
};

} // namespace ember
