#include "desktop/controls/choice_pictures.h"

#include "desktop/controls/parameter_text.h"
#include "desktop/theme.h"

#include <QApplication>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <numbers>

namespace ember {

namespace {

constexpr int cell_width = 21, cell_height = 22;
constexpr double drawn_size = 16; // pictures are drawn in a square of this size

using Draw = std::function<void(QPainter&)>;

void dots(QPainter& painter, const std::vector<QPointF>& places, double radius = 1.2) {
    const QPen pen = painter.pen();
    painter.setBrush(pen.color());
    painter.setPen(Qt::NoPen);
    for (const QPointF& place : places) {
        painter.drawEllipse(place, radius, radius);
    }
    painter.setBrush(Qt::NoBrush);
    painter.setPen(pen);
}

void lines(QPainter& painter, const std::vector<QLineF>& list) {
    painter.drawLines(list.data(), int(list.size()));
}

// A block in a slanted view, with the corners that all such pictures have.
void block(QPainter& painter) {
    painter.drawPolygon(QPolygonF({{2, 6}, {10, 6}, {10, 14}, {2, 14}}));
    painter.drawPolyline(QPolygonF({{2, 6}, {6, 2}, {14, 2}, {14, 10}, {10, 14}}));
    painter.drawLine(QLineF(10, 6, 14, 2));
}

void ball(QPainter& painter) {
    painter.drawEllipse(QPointF(8, 8), 6, 6);
    painter.drawArc(QRectF(2, 5.5, 12, 5), 180 * 16, 180 * 16);
}

void wave(QPainter& painter, const std::function<double(double)>& at) {
    QPolygonF line;
    for (double x = 0; x <= 2; x += 0.02) {
        line << QPointF(1 + 7 * x, 8 - 5 * at(x - std::floor(x)));
    }
    painter.drawPolyline(line);
}

void frame(QPainter& painter, double wide, double high) {
    painter.drawRect(QRectF(8 - wide / 2, 8 - high / 2, wide, high));
}

const std::map<std::string_view, Draw>& pictures() {
    static const std::map<std::string_view, Draw> all = {
        // Shapes.
        {"point",
         [](QPainter& p) {
             dots(p, {{8, 8}}, 2);
         }},
        {"line", [](QPainter& p) { p.drawLine(QLineF(2, 13, 14, 3)); }},
        {"plane",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{1, 11}, {6, 5}, {15, 5}, {10, 11}}));
         }},
        {"disc",
         [](QPainter& p) {
             p.drawEllipse(QPointF(8, 8), 7, 3.5);
             dots(p, {{6, 8}, {9, 6.8}, {10.5, 9}}, 0.9);
         }},
        {"rectangle", [](QPainter& p) { p.drawRect(QRectF(2, 4, 12, 8)); }},
        {"ring",
         [](QPainter& p) {
             p.drawEllipse(QPointF(8, 8), 7, 4.5);
             p.drawEllipse(QPointF(8, 8), 4, 2.2);
         }},
        {"box", block},
        {"block", block},
        {"ball", ball},
        {"cylinder",
         [](QPainter& p) {
             p.drawEllipse(QPointF(8, 4), 5, 2);
             p.drawArc(QRectF(3, 10, 10, 4), 180 * 16, 180 * 16);
             lines(p, {{3, 4, 3, 12}, {13, 4, 13, 12}});
         }},
        {"cone",
         [](QPainter& p) {
             p.drawArc(QRectF(3, 10, 10, 4), 180 * 16, 180 * 16);
             lines(p, {{8, 2, 3, 12}, {8, 2, 13, 12}});
         }},
        {"path",
         [](QPainter& p) {
             QPainterPath path({2, 12});
             path.cubicTo({6, 0}, {10, 16}, {14, 4});
             p.drawPath(path);
         }},
        {"mesh",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{3, 5}, {9, 2}, {14, 8}, {10, 14}, {3, 11}}));
             lines(p, {{3, 5, 8, 8}, {9, 2, 8, 8}, {14, 8, 8, 8}, {10, 14, 8, 8}, {3, 11, 8, 8}});
         }},
        {"skin",
         [](QPainter& p) {
             QPainterPath path({2, 9});
             path.cubicTo({2, 3}, {7, 2}, {8, 6});
             path.cubicTo({10, 3}, {15, 5}, {14, 10});
             path.cubicTo({12, 15}, {3, 15}, {2, 9});
             p.drawPath(path);
         }},
        {"broken",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{2, 3}, {8, 3}, {6, 7}, {8, 10}, {5, 14}, {2, 14}}));
             p.drawPolygon(QPolygonF({{11, 2}, {14, 4}, {14, 13}, {9, 14}, {11, 10}, {9, 7}}));
         }},
        {"clip",
         [](QPainter& p) {
             lines(p, {{2, 12, 14, 12}, {4, 10, 4, 14}, {12, 10, 12, 14}});
             dots(p, {{4, 7}, {7, 4}, {10, 4}, {13, 7}}, 1.1);
         }},
        {"everywhere",
         [](QPainter& p) {
             lines(p, {{8, 2, 8, 14}, {2, 8, 14, 8}, {4, 4, 12, 12}, {4, 12, 12, 4}});
         }},
        {"slab",
         [](QPainter& p) {
             lines(p, {{1, 5, 15, 5}, {1, 11, 15, 11}});
             dots(p, {{4, 8}, {8, 8}, {12, 8}}, 0.8);
         }},
        // Ways to be drawn.
        {"dots",
         [](QPainter& p) {
             dots(p, {{4, 5}, {10, 3}, {12, 9}, {6, 12}, {8, 7.5}}, 1.5);
         }},
        {"particles",
         [](QPainter& p) {
             dots(p, {{4, 5}, {10, 3}, {12, 9}, {6, 12}, {8, 7.5}}, 1.2);
         }},
        {"streaks",
         [](QPainter& p) {
             lines(p, {{2, 6, 6, 3}, {7, 9, 13, 5}, {3, 13, 8, 10}, {10, 14, 14, 11}});
         }},
        {"trails",
         [](QPainter& p) {
             QPainterPath path({2, 13});
             path.cubicTo({7, 13}, {5, 4}, {12, 4});
             p.drawPath(path);
             dots(p, {{13, 4}}, 2);
         }},
        {"cards",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{2, 5}, {8, 3}, {10, 9}, {4, 11}}));
             p.drawPolygon(QPolygonF({{8, 8}, {13, 7}, {14, 13}, {9, 14}}));
         }},
        {"meshes",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{8, 1}, {13, 5}, {8, 15}, {3, 5}}));
             lines(p, {{3, 5, 13, 5}, {8, 1, 8, 15}});
         }},
        {"surface",
         [](QPainter& p) {
             QPainterPath path({1, 10});
             path.cubicTo({4, 4}, {7, 4}, {9, 8});
             path.cubicTo({11, 11}, {13, 9}, {15, 6});
             p.drawPath(path);
             path.translate(0, 4);
             p.drawPath(path);
         }},
        {"cubes", block},
        {"crystals",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{5, 1}, {8, 5}, {8, 12}, {5, 15}, {2, 12}, {2, 5}}));
             p.drawPolyline(QPolygonF({{8, 8}, {11, 5}, {14, 8}, {14, 12}, {11, 15}, {8, 12}}));
         }},
        {"shards",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{2, 14}, {5, 2}, {8, 11}}));
             p.drawPolygon(QPolygonF({{9, 13}, {13, 3}, {14, 14}}));
         }},
        {"pebbles",
         [](QPainter& p) {
             p.drawEllipse(QPointF(5, 10), 3.6, 2.8);
             p.drawEllipse(QPointF(11.5, 11), 2.8, 2);
             p.drawEllipse(QPointF(9.5, 5), 3, 2.2);
         }},
        {"files",
         [](QPainter& p) {
             p.drawPolygon(QPolygonF({{4, 2}, {10, 2}, {13, 5}, {13, 14}, {4, 14}}));
             p.drawPolyline(QPolygonF({{10, 2}, {10, 5}, {13, 5}}));
         }},
        // Waves of modulators.
        {"sine", [](QPainter& p) { wave(p, [](double x) { return std::sin(2 * std::numbers::pi * x); }); }},
        {"triangle", [](QPainter& p) { wave(p, [](double x) { return 1 - 4 * std::abs(x - 0.5); }); }},
        {"saw", [](QPainter& p) { wave(p, [](double x) { return 2 * x - 1; }); }},
        {"pulse", [](QPainter& p) { wave(p, [](double x) { return x < 0.5 ? 1.0 : -1.0; }); }},
        // Patterns to break by.
        {"even",
         [](QPainter& p) {
             frame(p, 12, 12);
             lines(p, {{2, 6, 7, 8}, {7, 8, 6, 14}, {7, 8, 10, 4}, {10, 4, 14, 6}, {10, 4, 9, 2}});
         }},
        {"graded",
         [](QPainter& p) {
             frame(p, 12, 12);
             lines(p, {{9, 2, 9, 14}, {9, 8, 14, 8}, {12, 2, 12, 14}, {9, 5, 14, 5}, {9, 11, 14, 11}});
         }},
        {"spokes",
         [](QPainter& p) {
             frame(p, 12, 12);
             lines(p, {{8, 8, 2, 4}, {8, 8, 9, 2}, {8, 8, 14, 6}, {8, 8, 11, 14}, {8, 8, 4, 14}});
         }},
        {"layers",
         [](QPainter& p) {
             frame(p, 12, 12);
             lines(p, {{2, 5, 14, 5}, {2, 8, 14, 8}, {2, 11, 14, 11}});
         }},
        {"courses",
         [](QPainter& p) {
             frame(p, 12, 12);
             lines(p, {{2, 6, 14, 6}, {2, 10, 14, 10}, {8, 2, 8, 6}, {5, 6, 5, 10}, {11, 6, 11, 10}});
             p.drawLine(QLineF(8, 10, 8, 14));
         }},
        {"spot",
         [](QPainter& p) {
             dots(p, {{8, 3}}, 1.6);
             lines(p, {{7, 5, 2, 14}, {9, 5, 14, 14}});
         }},
        // Textures.
        {"grid",
         [](QPainter& p) {
             lines(p, {{5, 2, 5, 14}, {11, 2, 11, 14}, {2, 5, 14, 5}, {2, 11, 14, 11}});
         }},
        {"rings",
         [](QPainter& p) {
             for (const double radius : {2.0, 4.5, 7.0}) {
                 p.drawEllipse(QPointF(8, 8), radius, radius);
             }
         }},
        {"cells",
         [](QPainter& p) {
             lines(p, {{2, 6, 7, 7}, {7, 7, 9, 2}, {7, 7, 8, 11}, {8, 11, 4, 14}, {8, 11, 14, 10}});
         }},
        {"noise",
         [](QPainter& p) {
             p.drawPolyline(
                 QPolygonF({{1, 9}, {3, 5}, {5, 11}, {7, 6}, {9, 12}, {11, 4}, {13, 10}, {15, 7}}));
         }},
        {"image",
         [](QPainter& p) {
             p.drawRect(QRectF(2, 3, 12, 10));
             p.drawPolyline(QPolygonF({{2, 12}, {6, 7}, {9, 10}, {11, 8}, {14, 12}}));
         }},
        // Frames of pictures.
        {"free",
         [](QPainter& p) {
             lines(p, {{2, 2, 6, 2}, {2, 2, 2, 6}, {14, 14, 10, 14}, {14, 14, 14, 10}});
         }},
        {"16:9", [](QPainter& p) { frame(p, 14, 8); }},
        {"2.35:1", [](QPainter& p) { frame(p, 15, 6); }},
        {"1:1", [](QPainter& p) { frame(p, 10, 10); }},
        {"9:16", [](QPainter& p) { frame(p, 7, 13); }},
        {"own",
         [](QPainter& p) {
             frame(p, 11, 8);
             lines(p, {{8, 1, 8, 3}, {8, 13, 8, 15}, {0.5, 8, 1.5, 8}, {14.5, 8, 15.5, 8}});
         }},
    };
    return all;
}

bool is_letter(const QKeyEvent& key) {
    return !key.text().isEmpty() && key.text()[0].isLetterOrNumber() &&
           !(key.modifiers() & (Qt::ControlModifier | Qt::AltModifier));
}

} // namespace

bool have_pictures(std::span<const std::string_view> choices) {
    return std::all_of(choices.begin(), choices.end(),
                       [](std::string_view choice) { return pictures().contains(choice); });
}

PictureChoice::PictureChoice(std::span<const std::string_view> choices, QWidget* parent)
    : QWidget(parent), choices_(choices) {
    setFocusPolicy(Qt::StrongFocus);
    QSizePolicy policy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    policy.setHeightForWidth(true);
    setSizePolicy(policy);
}

void PictureChoice::setCurrent(int choice) {
    current_ = choice;
    setAccessibleDescription(qtext(choices_[size_t(choice)]));
    update();
}

int PictureChoice::columns(int width) const {
    return std::max(width / cell_width, 1);
}

// The word needs some room behind the last picture, else a line of its own.
int PictureChoice::lines(int width) const {
    constexpr int word_width = 62;
    const int count = int(choices_.size()), across = columns(width);
    const int last = count % across == 0 ? across : count % across;
    const bool has_room = width - last * cell_width >= word_width;
    return (count + across - 1) / across + (has_room ? 0 : 1);
}

int PictureChoice::heightForWidth(int width) const {
    return lines(width) * cell_height;
}

QSize PictureChoice::sizeHint() const {
    constexpr int usual = 166;
    return {usual, heightForWidth(width() > cell_width ? width() : usual)};
}

void PictureChoice::resizeEvent(QResizeEvent*) {
    setFixedHeight(heightForWidth(width()));
}

QRect PictureChoice::rectOf(int choice) const {
    const int across = columns(width());
    return {choice % across * cell_width, choice / across * cell_height, cell_width, cell_height};
}

QRect PictureChoice::wordRect() const {
    const QRect last = rectOf(int(choices_.size()) - 1);
    const bool has_own_line = lines(width()) * cell_height > last.bottom() + 1;
    return has_own_line ? QRect(2, last.bottom() + 1, width() - 2, cell_height)
                        : QRect(last.right() + 6, last.top(), width() - last.right() - 6, cell_height);
}

int PictureChoice::choiceAt(QPoint place) const {
    for (int i = 0; i < int(choices_.size()); ++i) {
        if (rectOf(i).contains(place)) {
            return i;
        }
    }
    return -1;
}

void PictureChoice::choose(int choice) {
    const int kept = std::clamp(choice, 0, int(choices_.size()) - 1);
    if (kept != current_) {
        setCurrent(kept);
        emit chosen(kept);
    }
}

bool PictureChoice::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        const auto* help = static_cast<QHelpEvent*>(event);
        if (const int choice = choiceAt(help->pos()); choice >= 0) {
            QToolTip::showText(help->globalPos(), qtext(choices_[size_t(choice)]), this, rectOf(choice));
            return true;
        }
    }
    if (event->type() == QEvent::ShortcutOverride) { // letters find a word here
        if (is_letter(*static_cast<QKeyEvent*>(event))) {
            event->accept();
            return true;
        }
    }
    return QWidget::event(event);
}

void PictureChoice::mousePressEvent(QMouseEvent* event) {
    const int choice = choiceAt(event->position().toPoint());
    if (event->button() == Qt::LeftButton && choice >= 0) {
        choose(choice);
    }
}

void PictureChoice::keyPressEvent(QKeyEvent* event) {
    switch (event->key()) {
    case Qt::Key_Left:
        return choose(current_ - 1);
    case Qt::Key_Right:
        return choose(current_ + 1);
    case Qt::Key_Up:
        return choose(current_ - columns(width()));
    case Qt::Key_Down:
        return choose(current_ + columns(width()));
    case Qt::Key_Home:
        return choose(0);
    case Qt::Key_End:
        return choose(int(choices_.size()) - 1);
    default:
        break;
    }
    is_letter(*event) ? find(event->text()) : QWidget::keyPressEvent(event);
}

// The word that begins with what has just been typed; a letter alone goes on to the next.
void PictureChoice::find(const QString& letter) {
    const bool goes_on = typing_.isValid() && typing_.elapsed() < QApplication::keyboardInputInterval();
    typed_ = goes_on ? typed_ + letter : letter;
    typing_.start();
    const int count = int(choices_.size());
    for (int i = typed_.size() > 1 ? 0 : 1; i <= count; ++i) {
        const int next = (current_ + i) % count;
        if (qtext(choices_[size_t(next)]).startsWith(typed_, Qt::CaseInsensitive)) {
            return choose(next);
        }
    }
}

void PictureChoice::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    for (int i = 0; i < int(choices_.size()); ++i) {
        const QRect cell = rectOf(i);
        const bool is_current = i == current_;
        if (is_current) {
            painter.setPen(Qt::NoPen);
            painter.setBrush(hasFocus() ? theme::line : theme::raised);
            painter.drawRoundedRect(QRectF(cell).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
        }
        painter.save();
        painter.translate(cell.center().x() + 0.5 - drawn_size / 2, cell.center().y() + 0.5 - drawn_size / 2);
        painter.setBrush(Qt::NoBrush);
        painter.setPen(QPen(!isEnabled() ? theme::line
                            : is_current ? theme::ember
                                         : theme::quiet,
                            1.1, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        pictures().at(choices_[size_t(i)])(painter);
        painter.restore();
    }
    painter.setFont(theme::text_font(8.5));
    painter.setPen(isEnabled() ? theme::text : theme::quiet);
    const QRect word = wordRect();
    painter.drawText(
        word, Qt::AlignVCenter | Qt::AlignLeft,
        painter.fontMetrics().elidedText(qtext(choices_[size_t(current_)]), Qt::ElideRight, word.width()));
}

} // namespace ember
