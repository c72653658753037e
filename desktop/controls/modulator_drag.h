// A modulator that is carried from the board onto a number: its id, in UTF-8.
#pragma once

#include <QString>

namespace ember {

inline const QString modulator_mime = QStringLiteral("application/x-crisp-ember-modulator");

} // namespace ember
