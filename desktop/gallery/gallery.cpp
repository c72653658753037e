#include "desktop/gallery/gallery.h"

#include "desktop/gallery/thumbnails.h"
#include "desktop/theme.h"

#include <QKeyEvent>
#include <QLineEdit>
#include <QMessageBox>
#include <QPainter>
#include <QScrollArea>
#include <QScrollBar>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

constexpr int columns = 4;
constexpr QSize picture_size(160, 100);
constexpr QSize cell_size(172, 176);
constexpr int heading_height = 30;

std::vector<QString> samples_of(const std::vector<Offer>& offers) {
    std::vector<QString> samples;
    for (const Offer& offer : offers) {
        samples.push_back(offer.sample);
    }
    return samples;
}

} // namespace

OfferGrid::OfferGrid(const std::vector<Offer>& offers, QWidget* parent)
    : QWidget(parent), offers_(offers),
      thumbnails_(
          new Thumbnails(samples_of(offers), (QSizeF(picture_size) * devicePixelRatioF()).toSize(), this)) {
    setAccessibleName(tr("Choices"));
    connect(thumbnails_, &Thumbnails::changed, this, qOverload<>(&QWidget::update), Qt::QueuedConnection);
    layOut();
}

void OfferGrid::layOut() {
    cells_.clear();
    headings_.clear();
    const QStringList words = filter_.split(' ', Qt::SkipEmptyParts);
    int top = 0, column = 0;
    for (size_t i = 0; i < offers_.size(); ++i) {
        const QString text = offers_[i].title + " " + offers_[i].help;
        const bool fits = std::all_of(words.begin(), words.end(), [&](const QString& word) {
            return text.contains(word, Qt::CaseInsensitive);
        });
        if (!fits || hidden_.contains(offers_[i].key)) {
            continue;
        }
        if (headings_.empty() || headings_.back().text != offers_[i].section) {
            top += column > 0 ? cell_size.height() : 0;
            column = 0;
            headings_.push_back({offers_[i].section, top});
            top += heading_height;
        }
        cells_.push_back({i, QRect(QPoint(column * cell_size.width(), top), cell_size)});
        column = (column + 1) % columns;
        top += column == 0 ? cell_size.height() : 0;
    }
    bottom_ = top + (column > 0 ? cell_size.height() : 0);
    current_ = std::min(current_, cells_.empty() ? 0 : cells_.size() - 1);
    updateGeometry();
    setSeen(seen_);
    update();
}

void OfferGrid::hideCurrent() {
    hidden_ << current()->key;
    layOut();
}

void OfferGrid::setFilter(const QString& words) {
    filter_ = words;
    current_ = 0;
    layOut();
}

void OfferGrid::setSeen(const QRect& seen) {
    seen_ = seen;
    std::vector<size_t> in_sight;
    for (const Cell& cell : cells_) {
        if (cell.rect.intersects(seen)) {
            in_sight.push_back(cell.offer);
        }
    }
    thumbnails_->setSeen(in_sight);
}

void OfferGrid::move(Qt::Key key) {
    const int by = key == Qt::Key_Left    ? -1
                   : key == Qt::Key_Right ? 1
                   : key == Qt::Key_Up    ? -columns
                                          : columns;
    const int last = int(cells_.size()) - 1;
    current_ = size_t(std::clamp(int(current_) + by, 0, std::max(last, 0)));
    update();
    emit currentChanged();
}

const Offer* OfferGrid::current() const {
    return cells_.empty() ? nullptr : &offers_[cells_[current_].offer];
}

QRect OfferGrid::currentRect() const {
    return cells_.empty() ? QRect() : cells_[current_].rect;
}

QRect OfferGrid::rectOf(const QString& key) const {
    for (const Cell& cell : cells_) {
        if (offers_[cell.offer].key == key) {
            return cell.rect;
        }
    }
    return {};
}

QSize OfferGrid::sizeHint() const {
    return {columns * cell_size.width(), bottom_};
}

void OfferGrid::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    for (const Heading& heading : headings_) {
        painter.setFont(theme::text_font(8, QFont::Medium));
        painter.setPen(theme::quiet);
        painter.drawText(QRect(6, heading.top, width(), heading_height), Qt::AlignVCenter | Qt::AlignLeft,
                         heading.text.toUpper());
    }
    for (size_t i = 0; i < cells_.size(); ++i) {
        if (cells_[i].rect.intersects(seen_)) {
            paintCell(painter, cells_[i], i == current_);
        }
    }
    if (cells_.empty()) {
        painter.setPen(theme::quiet);
        painter.drawText(rect(), Qt::AlignHCenter | Qt::AlignTop, tr("Nothing has these words."));
    }
}

void OfferGrid::paintCell(QPainter& painter, const Cell& cell, bool is_current) const {
    const Offer& offer = offers_[cell.offer];
    const QRect inside = cell.rect.adjusted(6, 4, -6, -4);
    const QRect picture(inside.topLeft(), picture_size);
    painter.fillRect(picture, theme::ground);
    const QImage thumbnail = thumbnails_->picture(cell.offer);
    painter.drawImage(picture, thumbnail);
    if (thumbnail.isNull()) {
        painter.setFont(theme::text_font(8));
        painter.setPen(theme::quiet);
        painter.drawText(picture, Qt::AlignCenter, tr("starting"));
    }
    if (is_current) {
        painter.setPen(QPen(theme::ember, 2));
        painter.setBrush(Qt::NoBrush);
        painter.drawRect(picture.adjusted(-1, -1, 1, 1));
    }
    QRect text = inside.adjusted(0, picture_size.height() + 5, 0, 0);
    painter.setFont(theme::text_font(9.5, QFont::Medium));
    painter.setPen(is_current ? theme::ember : theme::text);
    painter.drawText(text, Qt::AlignTop | Qt::AlignLeft, offer.title);
    text.setTop(text.top() + 18);
    painter.setFont(theme::text_font(8));
    painter.setPen(theme::quiet);
    painter.drawText(text, Qt::AlignTop | Qt::AlignLeft | Qt::TextWordWrap, offer.help);
}

void OfferGrid::mousePressEvent(QMouseEvent* event) {
    for (size_t i = 0; i < cells_.size(); ++i) {
        if (cells_[i].rect.contains(event->position().toPoint())) {
            current_ = i;
            update();
        }
    }
}

void OfferGrid::mouseReleaseEvent(QMouseEvent* event) {
    if (currentRect().contains(event->position().toPoint())) {
        emit chosen();
    }
}

Gallery::Gallery(const QString& title, std::vector<Offer> offers, QWidget* parent)
    : QDialog(parent), offers_(std::move(offers)), filter_(new QLineEdit(this)),
      grid_(new OfferGrid(offers_)), scroll_(new QScrollArea(this)) {
    setWindowTitle(title);
    filter_->setPlaceholderText(tr("Type what you look for; arrows move, Enter chooses"));
    filter_->setAccessibleName(tr("Filter"));
    filter_->installEventFilter(this);
    scroll_->setWidget(grid_);
    scroll_->setWidgetResizable(true);
    scroll_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll_->setFocusPolicy(Qt::NoFocus);
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(filter_);
    layout->addWidget(scroll_, 1);
    resize(grid_->sizeHint().width() + 40, std::min(grid_->sizeHint().height() + 60, 640));

    connect(filter_, &QLineEdit::textChanged, grid_, &OfferGrid::setFilter);
    connect(grid_, &OfferGrid::chosen, this, &QDialog::accept);
    connect(grid_, &OfferGrid::currentChanged, this, [this] {
        const QRect cell = grid_->currentRect();
        scroll_->ensureVisible(cell.center().x(), cell.center().y(), 0, cell.height() / 2 + heading_height);
    });
    connect(scroll_->verticalScrollBar(), &QScrollBar::valueChanged, this, &Gallery::showSeen);
    scroll_->viewport()->installEventFilter(this);
}

void Gallery::removeCurrent() {
    const Offer* offer = grid_->current();
    if (offer == nullptr || !offer->is_own) {
        return;
    }
    const QString key = offer->key;
    const auto answer = QMessageBox::question(this, tr("Throw it away"),
                                              tr("Throw away what was kept as \"%1\"?").arg(offer->title));
    if (answer == QMessageBox::Yes) {
        grid_->hideCurrent();
        emit removed(key);
    }
}

void Gallery::showSeen() {
    const int top = scroll_->verticalScrollBar()->value();
    grid_->setSeen(QRect(QPoint(0, top), scroll_->viewport()->size()));
}

bool Gallery::eventFilter(QObject* watched, QEvent* event) {
    if (watched == scroll_->viewport() && event->type() == QEvent::Resize) {
        showSeen();
    }
    if (watched == filter_ && event->type() == QEvent::KeyPress) {
        const auto key = Qt::Key(static_cast<QKeyEvent*>(event)->key());
        const bool in_text = (key == Qt::Key_Left || key == Qt::Key_Right) && !filter_->text().isEmpty();
        switch (key) {
        case Qt::Key_Left:
        case Qt::Key_Right:
        case Qt::Key_Up:
        case Qt::Key_Down:
            if (!in_text) {
                grid_->move(key);
                return true;
            }
            break;
        case Qt::Key_Delete:
            if (filter_->text().isEmpty()) {
                removeCurrent();
                return true;
            }
            break;
        case Qt::Key_Return:
        case Qt::Key_Enter:
            if (grid_->current() != nullptr) {
                accept();
            }
            return true;
        default:
            break;
        }
    }
    return QDialog::eventFilter(watched, event);
}

} // namespace ember
