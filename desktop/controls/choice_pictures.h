// A choice of few as small drawn pictures: shapes of births and reaches, ways to be drawn, waves.
#pragma once

#include <QElapsedTimer>
#include <QWidget>

#include <span>
#include <string_view>
#include <vector>

namespace ember {

/// Whether each of these words can be drawn.
bool have_pictures(std::span<const std::string_view> choices);

/// One cell a choice, in lines; the word of the chosen one stands behind them. Arrows move, letters find.
class PictureChoice : public QWidget {
    Q_OBJECT

  public:
    /// `choices` must last as long, as those of the parameter tables do.
    explicit PictureChoice(std::span<const std::string_view> choices, QWidget* parent = nullptr);

    void setCurrent(int choice);
    int current() const { return current_; }
    QRect rectOf(int choice) const;

    bool hasHeightForWidth() const override { return true; }
    int heightForWidth(int width) const override;
    QSize sizeHint() const override;

  signals:
    void chosen(int choice);

  protected:
    bool event(QEvent* event) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    void resizeEvent(QResizeEvent*) override;

  private:
    int columns(int width) const;
    int lines(int width) const;
    QRect wordRect() const;
    int choiceAt(QPoint place) const; // -1: none
    void choose(int choice);
    void find(const QString& letter);

    std::span<const std::string_view> choices_;
    int current_ = 0;
    QString typed_;
    QElapsedTimer typing_;
};

} // namespace ember
