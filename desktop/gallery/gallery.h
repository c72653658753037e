// Things to choose from, each shown by an effect that runs and by plain words.
#pragma once

#include <QDialog>
#include <QString>

#include <vector>

class QLineEdit;
class QScrollArea;

namespace ember {

class Thumbnails;

/// Something that can be chosen.
struct Offer {
    QString key;
    QString title;
    QString help;
    QString section;           // those of one section follow one another
    QString sample;            // effect file that shows it; empty: the effect that "new" gives
    bool opens_itself = false; // a file to go on with, not a copy of it
    bool is_own = false;       // was kept by the artist, who may throw it away
};

/// The offers as cells in columns. Arrows move, Enter chooses.
class OfferGrid : public QWidget {
    Q_OBJECT

  public:
    explicit OfferGrid(const std::vector<Offer>& offers, QWidget* parent = nullptr);

    /// Leaves out the current one from now on.
    void hideCurrent();
    /// Only offers with all these words in title or help.
    void setFilter(const QString& words);
    /// The part of the grid that is in sight.
    void setSeen(const QRect& seen);
    /// Moves by cells, as a key does.
    void move(Qt::Key key);
    const Offer* current() const;
    QRect currentRect() const;
    /// Where an offer stands; empty if it is filtered away.
    QRect rectOf(const QString& key) const;

    QSize sizeHint() const override;

  signals:
    void chosen();
    void currentChanged();

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void mouseReleaseEvent(QMouseEvent* event) override;

  private:
    struct Cell {
        size_t offer;
        QRect rect;
    };
    struct Heading {
        QString text;
        int top;
    };
    void layOut();
    void paintCell(QPainter& painter, const Cell& cell, bool is_current) const;

    const std::vector<Offer>& offers_;
    Thumbnails* thumbnails_;
    QString filter_;
    QStringList hidden_; // keys
    QRect seen_;
    std::vector<Cell> cells_;
    std::vector<Heading> headings_;
    int bottom_ = 0;
    size_t current_ = 0; // of the cells
};

class Gallery : public QDialog {
    Q_OBJECT

  public:
    Gallery(const QString& title, std::vector<Offer> offers, QWidget* parent);

    /// What was chosen, once it has been accepted.
    const Offer& chosen() const { return *grid_->current(); }
    OfferGrid* grid() const { return grid_; }
    QLineEdit* filterField() const { return filter_; }

  signals:
    /// The artist throws away what was kept.
    void removed(const QString& key);

  protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    void showSeen();
    void removeCurrent();

    std::vector<Offer> offers_;
    QLineEdit* filter_;
    OfferGrid* grid_;
    QScrollArea* scroll_;
};

} // namespace ember
