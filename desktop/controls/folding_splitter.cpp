#include "desktop/controls/folding_splitter.h"

#include "desktop/theme.h"

#include <QMouseEvent>
#include <QPainter>
#include <QSplitterHandle>

#include <numeric>

namespace ember {

class FoldingHandle : public QSplitterHandle {
  public:
    explicit FoldingHandle(FoldingSplitter* splitter)
        : QSplitterHandle(splitter->orientation(), splitter), splitter_(splitter) {
        setToolTip(FoldingSplitter::tr("Press to fold this panel away, and back; drag to make it wider."));
    }

  protected:
    // Three grains where it is taken, brighter under the pointer.
    void paintEvent(QPaintEvent*) override {
        QPainter painter(this);
        painter.fillRect(rect(), theme::line);
        painter.setRenderHint(QPainter::Antialiasing);
        painter.setPen(Qt::NoPen);
        painter.setBrush(underMouse() ? theme::text : theme::quiet);
        const QPointF middle = QRectF(rect()).center();
        for (const int i : {-1, 0, 1}) {
            const QPointF away = orientation() == Qt::Horizontal ? QPointF(0, 6 * i) : QPointF(6 * i, 0);
            painter.drawEllipse(middle + away, 1.2, 1.2);
        }
    }
    void mousePressEvent(QMouseEvent* event) override {
        pressed_ = event->globalPosition();
        QSplitterHandle::mousePressEvent(event);
    }
    void mouseReleaseEvent(QMouseEvent* event) override {
        QSplitterHandle::mouseReleaseEvent(event);
        const int panel = splitter_->panelOf(this);
        if (panel >= 0 && (event->globalPosition() - pressed_).manhattanLength() < 3) {
            splitter_->fold(panel, !splitter_->isFolded(panel));
        }
    }

  private:
    FoldingSplitter* splitter_;
    QPointF pressed_;
};

FoldingSplitter::FoldingSplitter(Qt::Orientation orientation, QWidget* parent)
    : QSplitter(orientation, parent) {
    setHandleWidth(4);
    setChildrenCollapsible(false);
    connect(this, &QSplitter::splitterMoved, this, &FoldingSplitter::foldingChanged);
}

QSplitterHandle* FoldingSplitter::createHandle() {
    return new FoldingHandle(this);
}

int FoldingSplitter::panelOf(const QSplitterHandle* of) const {
    for (const auto& [panel, width] : widths_) {
        if (handle(panel == 0 ? 1 : panel) == of) {
            return panel;
        }
    }
    return -1;
}

void FoldingSplitter::setFolds(int panel) {
    setCollapsible(panel, true);
    widths_[panel] = 0;
}

void FoldingSplitter::fold(int panel, bool folded) {
    if (folded == isFolded(panel)) {
        return;
    }
    QList<int> now = sizes();
    int stretching = 0;
    while (widths_.contains(stretching)) {
        ++stretching;
    }
    const int width =
        folded ? now[panel] : std::max(widths_[panel], widget(panel)->minimumSizeHint().width() / 2);
    if (folded) {
        widths_[panel] = width;
    }
    now[panel] = folded ? 0 : width;
    now[stretching] += folded ? width : -width;
    setSizes(now);
    emit foldingChanged();
}

} // namespace ember
