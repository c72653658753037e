#include "desktop/controls/parameter_text.h"

#include <QCoreApplication>

namespace ember {

QString qtext(std::string_view text) {
    return QCoreApplication::translate("Tables", std::string(text).c_str());
}

QString tipOf(const Parameter& parameter) {
    const QString unit = parameter.unit.empty() ? QString() : " (" + qtext(parameter.unit) + ")";
    return qtext(parameter.label) + unit + "\n" + qtext(parameter.help) + "\n" +
           QCoreApplication::translate("Parameter", "Takes %1.")
               .arg(QString::fromStdString(expectation_of(parameter)));
}

} // namespace ember
