#include "desktop/theme.h"

#include <QApplication>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>

namespace ember::theme {

namespace {

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
        palette.setColor(QPalette::Disabled, role, QColor(0x6a, 0x74, 0x78));
    }
    return palette;
}

constexpr auto style_sheet = R"(
QToolTip { background: #252d32; color: #e8e1d3; border: 1px solid #313b41; padding: 5px; }
QPushButton, QToolButton { background: #252d32; border: 1px solid #313b41; border-radius: 6px; padding: 4px 10px; }
QPushButton:hover, QToolButton:hover { border-color: #9aa4a6; }
QPushButton:focus, QToolButton:focus { border-color: #ff7f45; }
QPushButton:pressed, QToolButton:pressed { background: #313b41; }
QPushButton:checked, QToolButton:checked { background: #ff7f45; color: #15191c; border-color: #ff7f45; }
QToolButton::menu-indicator { image: none; }
QToolButton[quiet="true"] { background: transparent; border-color: transparent; color: #ff7f45; padding: 3px 6px; }
QToolButton[quiet="true"]:hover, QToolButton[quiet="true"]:focus { border-color: #ff7f45; }
QLineEdit, QSpinBox, QComboBox { background: #15191c; border: 1px solid #313b41; border-radius: 5px; padding: 2px 5px; }
QLineEdit:focus, QSpinBox:focus, QComboBox:focus { border-color: #ff7f45; }
ember--NumberField { padding: 2px 3px; }
QLineEdit[refused="true"] { border: 2px solid #e2504f; }
QLineEdit[title="true"] { background: transparent; border-color: transparent; padding: 0px; }
QLineEdit[title="true"]:hover { border-color: #313b41; }
QLineEdit[title="true"]:focus { border-color: #ff7f45; }
QSpinBox::up-button, QSpinBox::down-button { width: 0px; border: none; }
QMenu { background: #252d32; border: 1px solid #313b41; padding: 5px; }
QMenu::item { padding: 5px 22px 5px 12px; border-radius: 4px; }
QMenu::item:selected { background: #ff7f45; color: #15191c; }
QMenu::item:disabled { color: #6a7478; }
QMenu::separator { height: 1px; background: #313b41; margin: 5px; }
QScrollArea { border: none; background: transparent; }
QScrollBar { background: transparent; border: none; }
QScrollBar:vertical { width: 9px; }
QScrollBar:horizontal { height: 9px; }
QScrollBar::handle { background: #313b41; border-radius: 4px; min-width: 24px; min-height: 24px; }
QScrollBar::handle:hover { background: #9aa4a6; }
QScrollBar::add-line, QScrollBar::sub-line, QScrollBar::add-page, QScrollBar::sub-page { background: none; border: none; width: 0; height: 0; }
)";

} // namespace

void apply(QApplication& application) {
    for (const char* name :
         {"Inter-Regular.otf", "Inter-Medium.otf", "Inter-SemiBold.otf", "JetBrainsMono-Regular.ttf"}) {
        QFontDatabase::addApplicationFont(QStringLiteral(":/fonts/") + QLatin1String(name));
    }
    QApplication::setStyle(QStyleFactory::create(QStringLiteral("Fusion")));
    QApplication::setPalette(dark_palette());
    QApplication::setFont(text_font(9.5));
    application.setStyleSheet(QLatin1String(style_sheet));
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

QString short_count(double count) {
    if (count < 1000) {
        return QString::number(count, 'f', 0);
    }
    if (count < 999'950) {
        return QString::number(count / 1000, 'f', count < 99'950 ? 1 : 0) + QStringLiteral(" k");
    }
    return QString::number(count / 1e6, 'f', 2) + QStringLiteral(" M");
}

} // namespace ember::theme
