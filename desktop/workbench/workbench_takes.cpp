// Runs that are kept.
#include "desktop/workbench/workbench.h"

#include <QDateTime>

#include <utility>

namespace ember {

QString Workbench::takesPath() const {
    const QString ending = QStringLiteral(".ember.json");
    const QString path = document_.path();
    return path.isEmpty() ? QString()
                          : (path.endsWith(ending) ? path.chopped(ending.size()) : path) + ".takes.json";
}

std::vector<Take> Workbench::takes() {
    if (takesPath().isEmpty() || !std::filesystem::exists(takesPath().toStdString())) {
        return {};
    }
    ReadTakes read = read_takes(takesPath().toStdString());
    if (!read.problems.empty()) {
        emit said(
            tr("Not all takes could be read: %1").arg(QString::fromStdString(read.problems.front().text())),
            15000);
    }
    return std::move(read.takes);
}

void Workbench::setTakes(const std::vector<Take>& takes) {
    if (const auto problem = save_takes(takes, takesPath().toStdString())) {
        emit said(tr("The takes could not be written: %1").arg(QString::fromStdString(problem->text())),
                  15000);
    }
}

void Workbench::keepTake(const QByteArray& picture) {
    if (takesPath().isEmpty()) {
        emit said(tr("Takes lie beside the effect's file: save the effect first (Ctrl+S)"), 6000);
        return;
    }
    player_.take([this, picture](std::optional<Take> take) {
        QMetaObject::invokeMethod(
            this, [this, picture, kept = std::move(take)]() mutable { addTake(std::move(kept), picture); },
            Qt::QueuedConnection);
    });
}

void Workbench::addTake(std::optional<Take> take, const QByteArray& picture) {
    if (!take) {
        emit said(tr("Nothing to keep: play from the start first (B)"), 6000);
        return;
    }
    ReadTakes read;
    if (std::filesystem::exists(takesPath().toStdString())) {
        read = read_takes(takesPath().toStdString());
    }
    if (!read.problems.empty()) {
        // What cannot be read is not written over.
        emit said(tr("Not kept: %1").arg(QString::fromStdString(read.problems.front().text())), 15000);
        return;
    }
    const auto is_taken = [&](const std::string& name) {
        return std::any_of(read.takes.begin(), read.takes.end(),
                           [&](const Take& each) { return each.name == name; });
    };
    size_t number = read.takes.size() + 1;
    const auto name = [&] { return tr("Take %1").arg(number).toStdString(); };
    while (is_taken(name())) {
        ++number;
    }
    take->name = name();
    take->kept_at = QDateTime::currentDateTime().toString(QStringLiteral("d MMM yyyy, HH:mm")).toStdString();
    take->worst_frame_ms = worst_frame_ms_;
    take->most_particles = most_particles_;
    take->picture = picture.toStdString();
    read.takes.push_back(std::move(*take));
    if (const auto problem = save_takes(read.takes, takesPath().toStdString())) {
        emit said(tr("Not kept: %1").arg(QString::fromStdString(problem->text())), 15000);
        return;
    }
    emit said(
        tr("Kept as %1; Ctrl+Shift+T shows the takes").arg(QString::fromStdString(read.takes.back().name)),
        6000);
}

void Workbench::replay(const Take& take) {
    const EffectPtr& last = std::prev(take.effects.end())->second;
    if (*last != *effect()) {
        edit(*last, tr("the effect of %1").arg(QString::fromStdString(take.name)));
    }
    player_.replay(std::make_shared<const Take>(take), assets());
    setPlaying(true);
    emit said(tr("%1 plays again; Ctrl+L goes on live").arg(QString::fromStdString(take.name)), 6000);
}

void Workbench::goOnLive() {
    player_.set_effect(effect(), assets());
    emit said(tr("Live from here on"), 3000);
}

} // namespace ember
