#include "desktop/workbench/shipped.h"

#include <QCoreApplication>
#include <QDir>

namespace ember {

QString shipped_folder(const QString& name) {
    const QDir installed(QCoreApplication::applicationDirPath() + "/../share/crisp-ember");
    return installed.exists(name) ? QDir::cleanPath(installed.filePath(name))
                                  : QStringLiteral(EMBER_SHIPPED_FOLDER) + "/" + name;
}

} // namespace ember
