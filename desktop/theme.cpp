#include "desktop/theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QSettings>
#include <QStyleFactory>

#include <algorithm>
#include <cmath>
#include <vector>

namespace ember::theme {

namespace {

QColor faint(0x8c, 0x96, 0x9a); // what is disabled

const QString contrast_key = QStringLiteral("high_contrast");

struct Ink {
    const char* name;
    QColor* colour;
    QColor usual, contrasting;
};

std::vector<Ink>& inks() {
    static std::vector<Ink> all = {{"ground", &ground, ground, QColor(0x00, 0x00, 0x00)},
                                   {"panel", &panel, panel, QColor(0x06, 0x07, 0x08)},
                                   {"raised", &raised, raised, QColor(0x16, 0x1a, 0x1c)},
                                   {"line", &line, line, QColor(0x8c, 0x98, 0x9e)},
                                   {"text", &text, text, QColor(0xff, 0xff, 0xff)},
                                   {"quiet", &quiet, quiet, QColor(0xd4, 0xdc, 0xde)},
                                   {"ember", &ember, ember, QColor(0xff, 0x9c, 0x6b)},
                                   {"within", &within, within, QColor(0x7d, 0xe6, 0xcd)},
                                   {"close", &close, close, QColor(0xff, 0xd2, 0x70)},
                                   {"over", &over, over, QColor(0xff, 0x80, 0x7d)},
                                   {"cost", &cost, cost, QColor(0xc4, 0xd8, 0xf2)},
                                   {"faint", &faint, faint, QColor(0x9a, 0xa4, 0xa8)}};
    return all;
}

bool high_contrast = false;

QPalette dark_palette() {
    QPalette palette;
    palette.setColor(QPalette::Window, panel);
    palette.setColor(QPalette::WindowText, text);
    palette.setColor(QPalette::Base, ground);
    palette.setColor(QPalette::AlternateBase, raised);
    palette.setColor(QPalette::Text, text);
    palette.setColor(QPalette::PlaceholderText, quiet);
    palette.setColor(QPalette::Button, raised);
    palette.setColor(QPalette::ButtonText, text);
    palette.setColor(QPalette::Highlight, ember);
    palette.setColor(QPalette::HighlightedText, ground);
    palette.setColor(QPalette::ToolTipBase, raised);
    palette.setColor(QPalette::ToolTipText, text);
    palette.setColor(QPalette::Link, ember);
    for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText}) {
        palette.setColor(QPalette::Disabled, role, faint);
    }
    return palette;
}

constexpr auto style_sheet = R"(
QLabel[ink="quiet"] { color: @quiet; }
QLabel[ink="cost"] { color: @cost; }
QLabel[ink="close"] { color: @close; }
QLabel[heading="true"] { color: @quiet; border-bottom: 1px solid @line; padding: 8px 0px 3px 0px; }
QSplitter::handle { background: @line; }
QToolTip { background: @raised; color: @text; border: 1px solid @line; padding: 5px; }
QPushButton, QToolButton { background: @raised; border: 1px solid @line; border-radius: 6px; padding: 4px 10px; }
QPushButton:hover, QToolButton:hover { border-color: @quiet; }
QPushButton:focus, QToolButton:focus { border-color: @ember; }
QPushButton:pressed, QToolButton:pressed { background: @line; }
QPushButton:checked, QToolButton:checked { background: @ember; color: @ground; border-color: @ember; }
QToolButton::menu-indicator { image: none; }
QToolButton[quiet="true"] { background: transparent; border-color: transparent; color: @ember; padding: 3px 6px; }
QToolButton[quiet="true"]:hover, QToolButton[quiet="true"]:focus { border-color: @ember; }
QLineEdit, QSpinBox, QComboBox { background: @ground; border: 1px solid @line; border-radius: 5px; padding: 2px 5px; }
QLineEdit:focus, QSpinBox:focus, QComboBox:focus { border-color: @ember; }
ember--NumberField { padding: 2px 3px; }
QLineEdit[refused="true"] { border: 2px solid @over; }
QLineEdit[title="true"] { background: transparent; border-color: transparent; padding: 0px; }
QLineEdit[title="true"]:hover { border-color: @line; }
QLineEdit[title="true"]:focus { border-color: @ember; }
QComboBox QAbstractItemView { background: @raised; color: @text; border: 1px solid @line; outline: 0; selection-background-color: @ember; selection-color: @ground; }
QComboBox QAbstractItemView::item { min-height: 20px; padding: 1px 4px; color: @text; }
QComboBox QAbstractItemView::item:selected, QComboBox QAbstractItemView::item:hover { background: @ember; color: @ground; }
QCheckBox::indicator { width: 14px; height: 14px; background: @ground; border: 1px solid @quiet; border-radius: 3px; }
QCheckBox::indicator:checked { background: @ember; border-color: @ember; image: url(:/tick.svg); }
QCheckBox::indicator:disabled { border-color: @line; }
QCheckBox:focus { border: 1px solid @ember; border-radius: 3px; }
QSpinBox::up-button, QSpinBox::down-button { width: 0px; border: none; }
QMenu { background: @raised; border: 1px solid @line; padding: 5px; }
QMenu::item { padding: 5px 22px 5px 12px; border-radius: 4px; }
QMenu::item:selected { background: @ember; color: @ground; }
QMenu::item:disabled { color: @faint; }
QMenu::separator { height: 1px; background: @line; margin: 5px; }
QScrollArea { border: none; background: transparent; }
QScrollBar { background: transparent; border: none; }
QScrollBar:vertical { width: 9px; }
QScrollBar:horizontal { height: 9px; }
QScrollBar::handle { background: @line; border-radius: 4px; min-width: 24px; min-height: 24px; }
QScrollBar::handle:hover { background: @quiet; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: none; border: none; width: 0; height: 0; }
)";

} // namespace

void set_high_contrast(bool on) {
    high_contrast = on;
    QSettings().setValue(contrast_key, on);
    QString sheet = QLatin1String(style_sheet);
    for (const Ink& ink : inks()) {
        *ink.colour = on ? ink.contrasting : ink.usual;
        sheet.replace(QLatin1Char('@') + QLatin1String(ink.name), ink.colour->name());
    }
    QApplication::setPalette(dark_palette());
    qApp->setStyleSheet(sheet);
}

bool has_high_contrast() {
    return high_contrast;
}

void apply(QApplication&) {
    for (const char* name :
         {"Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf", "JetBrainsMono-Regular.ttf"}) {
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/") + QLatin1String(name));
    }
    QApplication::setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    QApplication::setFont(text_font(9.5));
    set_high_contrast(QSettings().value(contrast_key, false).toBool());
}

double contrast(const QColor& a, const QColor& b) {
    const auto light = [](const QColor& c) {
        const auto linear = [](double share) {
            return share <= 0.04045 ? share / 12.92 : std::pow((share + 0.055) / 1.055, 2.4);
        };
        return 0.2126 * linear(c.redF()) + 0.7152 * linear(c.greenF()) + 0.0722 * linear(c.blueF());
    };
    const double one = light(a) + 0.05, other = light(b) + 0.05;
    return std::max(one, other) / std::min(one, other);
}

QColor ink_on(const QColor& ground_colour) {
    const QColor black(Qt::black), white(Qt::white);
    return contrast(black, ground_colour) >= contrast(white, ground_colour) ? black : white;
}

QFont text_font(double points, int weight) {
    QFont font(QStringLiteral("Inter"));
    font.setPointSizeF(points);
    font.setWeight(QFont::Weight(weight));
    return font;
}

QFont figure_font(double points) {
    QFont font(QStringLiteral("JetBrains Mono"));
    font.setPointSizeF(points);
    return font;
}

Standing standing_of(double value, double limit) {
    if (value > limit) {
        return Standing::over;
    }
    return value > 0.8 * limit ? Standing::close : Standing::within;
}

QColor colour_of(Standing standing) {
    switch (standing) {
    case Standing::within:
        return within;
    case Standing::close:
        return close;
    case Standing::over:
        return over;
    }
    return within;
}

QString word_of(Standing standing) {
    switch (standing) {
    case Standing::within:
        return QStringLiteral("within");
    case Standing::close:
        return QStringLiteral("close");
    case Standing::over:
        return QStringLiteral("over");
    }
    return {};
}

void fill(QPainter& painter, const QRectF& area, Standing standing) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(colour_of(standing));
    painter.drawRoundedRect(area, area.height() / 2, area.height() / 2);
    if (standing == Standing::over) {
        painter.setBrush(QBrush(ground, Qt::BDiagPattern));
        painter.drawRoundedRect(area, area.height() / 2, area.height() / 2);
    }
}

void paint_mute(QPainter& painter, const QRectF& rect, bool on) {
    painter.setPen(QPen(on ? close : text, on ? 2 : 1.2));
    painter.setBrush(Qt::NoBrush);
    const QRectF circle = rect.adjusted(3, 3, -3, -3);
    painter.drawEllipse(circle);
    painter.drawLine(QPointF(circle.left() + 1.5, circle.bottom() - 1.5),
                     QPointF(circle.right() - 1.5, circle.top() + 1.5));
}

QString short_count(double count) {
    if (count < 1000) {
        return QString::number(count, 'f', 0);
    }
    if (count < 999'950) {
        return QString::number(count / 1000, 'f', count < 99'950 ? 1 : 0) + QStringLiteral(" k");
    }
    return QString::number(count / 1e6, 'f', 2) + QStringLiteral(" M");
}

QString shortest_count(double count) {
    if (count < 1000) {
        return QString::number(count, 'f', 0);
    }
    return count < 999'500 ? QString::number(count / 1000, 'f', count < 9950 ? 1 : 0) + QLatin1Char('k')
                           : QString::number(count / 1e6, 'f', 1) + QLatin1Char('M');
}

} // namespace ember::theme
