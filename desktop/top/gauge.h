// One budget at a glance: value and limit in figures, a bar, and a word for how they stand.
#pragma once

#include <QString>
#include <QWidget>

namespace ember {

class Gauge : public QWidget {
    Q_OBJECT

  public:
    Gauge(const QString& name, const QString& tip, QWidget* parent = nullptr);

    /// `figures`: value and limit as they are to be read, "9.8 / 16.6 ms".
    void setReading(double value, double limit, const QString& figures);

    /// In one line of half the height, so that two rows of them fit.
    void setCompact(bool compact);

    double value() const { return value_; }
    QString figures() const { return figures_; }
    QSize sizeHint() const override { return compact_ ? QSize(176, 20) : QSize(158, 38); }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QString name_;
    QString figures_;
    double value_ = 0;
    double limit_ = 1;
    bool compact_ = false;
};

} // namespace ember
