// Colours, fonts and common measures of the interface.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

class QApplication;
class QPainter;
class QRectF;

namespace ember::theme {

inline const QColor ground(0x15, 0x19, 0x1c);
inline const QColor panel(0x1c, 0x22, 0x26);
inline const QColor raised(0x25, 0x2d, 0x32);
inline const QColor line(0x31, 0x3b, 0x41);
inline const QColor text(0xe8, 0xe1, 0xd3);
inline const QColor quiet(0x9a, 0xa4, 0xa6);
inline const QColor ember(0xff, 0x7f, 0x45);
inline const QColor within(0x57, 0xb8, 0xa3);
inline const QColor close(0xe7, 0xb2, 0x4c);
inline const QColor over(0xe2, 0x50, 0x4f);
inline const QColor cost(0x8f, 0xa6, 0xc4);

/// Loads the fonts that the program ships and dresses the application.
void apply(QApplication& application);

/// Inter for text and JetBrains Mono for figures, in points of the interface.
QFont text_font(double points, int weight = QFont::Normal);
QFont figure_font(double points);

/// How a figure stands to its limit. Colour, word and hatch always go together.
enum class Standing { within, close, over };
Standing standing_of(double value, double limit);
QColor colour_of(Standing standing);
QString word_of(Standing standing);

/// Fills with the colour of the standing; hatched if over.
void fill(QPainter& painter, const QRectF& area, Standing standing);

/// "940", "12.4 k", "1.25 M".
QString short_count(double count);

} // namespace ember::theme
