// A splitter whose outer panels fold away: by a press on the handle beside them, by dragging it to the edge,
// or by fold(); and come back as wide as they were.
#pragma once

#include <QSplitter>

#include <map>

namespace ember {

class FoldingSplitter : public QSplitter {
    Q_OBJECT

  public:
    explicit FoldingSplitter(Qt::Orientation orientation, QWidget* parent = nullptr);

    /// A panel that folds, by its index. What it gives free goes to the panel that stretches.
    void setFolds(int panel);
    bool isFolded(int panel) const { return sizes()[panel] == 0; }
    void fold(int panel, bool folded);

  signals:
    void foldingChanged();

  protected:
    QSplitterHandle* createHandle() override;

  private:
    friend class FoldingHandle;
    /// The panel that a handle folds; negative: none.
    int panelOf(const QSplitterHandle* handle) const;

    std::map<int, int> widths_; // of panels that fold, as they come back
};

} // namespace ember
