// Colours, fonts and common measures of the interface. Labels take their colours from the property "ink":
// quiet, cost or close.
#pragma once

#include <QColor>
#include <QFont>
#include <QString>

class QApplication;
class QPainter;
class QRectF;

namespace ember::theme {

inline QColor ground(0x15, 0x19, 0x1c);
inline QColor panel(0x1c, 0x22, 0x26);
inline QColor raised(0x25, 0x2d, 0x32);
inline QColor line(0x31, 0x3b, 0x41);
inline QColor text(0xe8, 0xe1, 0xd3);
inline QColor quiet(0x9a, 0xa4, 0xa6);
inline QColor ember(0xff, 0x7f, 0x45);
inline QColor within(0x57, 0xb8, 0xa3);
inline QColor close(0xe7, 0xb2, 0x4c);
inline QColor over(0xe2, 0x50, 0x4f);
inline QColor cost(0x8f, 0xa6, 0xc4);

/// Loads the fonts that the program ships and dresses the application.
void apply(QApplication& application);

/// Light on black, with clear edges, for eyes or rooms that need it; and back. Kept for the next start.
void set_high_contrast(bool on);
bool has_high_contrast();

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

/// The sign for muted, struck out; quieter while it is not.
void paint_mute(QPainter& painter, const QRectF& rect, bool on);

/// "940", "12.4 k", "1.25 M".
QString short_count(double count);

/// "940", "12k", "1.2M": for narrow places.
QString shortest_count(double count);

/// By how much two colours differ in light, 1 to 21 (WCAG 2.1, "contrast ratio").
double contrast(const QColor& a, const QColor& b);
/// Black or white, whichever is read better on a colour.
QColor ink_on(const QColor& ground);

} // namespace ember::theme
