// What ships with the program beside it: demos, samples, starts, profiles of machines.
#pragma once

#include <QString>

namespace ember {

/// The folder "saltworks", "samples", "starts" or "machines": of the installed program, else of the sources.
QString shipped_folder(const QString& name);

} // namespace ember
