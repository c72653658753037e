// Over the picture of a moment that was gone back to: why it cost what it cost. A press on a name selects.
#pragma once

#include "desktop/strip/cost_history.h"

#include <QWidget>

namespace ember {

class WhyCard : public QWidget {
    Q_OBJECT

  public:
    /// At the foot of `view`, which it goes along with.
    explicit WhyCard(QWidget* view);

    /// Nothing: no moment was gone back to, and it is gone.
    void setWhy(const std::optional<Why>& why);
    const std::optional<Why>& why() const { return why_; }
    /// Of an element's line; empty if it has none.
    QRect rectOf(const std::string& id) const;

  signals:
    void selected(const std::string& id);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    bool eventFilter(QObject* view, QEvent* event) override;

  private:
    QStringList heading() const;
    size_t partCount() const;
    QRect partRect(size_t part) const;
    void place();

    std::optional<Why> why_;
};

} // namespace ember
