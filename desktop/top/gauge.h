// One budget at a glance: name and figure, a bar with its limit, a word for how they stand, and the limit.
#pragma once

#include <QString>
#include <QWidget>

namespace ember {

class Gauge : public QWidget {
    Q_OBJECT

  public:
    Gauge(const QString& name, const QString& tip, QWidget* parent = nullptr);

    /// `figure` and `limit_figure`: as they are to be read, "9.8" of "16.6 ms".
    void setReading(double value, double limit, const QString& figure, const QString& limit_figure);

    void setName(const QString& name);
    QString name() const { return name_; }
    double value() const { return value_; }
    QString figure() const { return figure_; }
    QSize sizeHint() const override;
    QSize minimumSizeHint() const override { return {60, 40}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QString name_;
    QString figure_, limit_figure_;
    double value_ = 0;
    double limit_ = 1;
};

} // namespace ember
