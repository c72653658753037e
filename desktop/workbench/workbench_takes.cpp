// Runs that are kept.
#include "desktop/workbench/workbench.h"

#include <QDateTime>

#include <utility>

namespace ember {

namespace {

// Beside the effect's file.
QString takes_path_of(const QString& effect) {
    const QString ending = QStringLiteral(".ember.json");
    return (effect.endsWith(ending) ? effect.chopped(ending.size()) : effect) + ".takes.json";
}

} // namespace

QString Workbench::takesPath() const {
    return document_.path().isEmpty() ? QString() : takes_path_of(document_.path());
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

namespace {

// Behind those that are there, under a name that none of them has; or why not: what cannot be read is not
// written over.
std::optional<Problem> append_take(Take& take, const QString& name, const QString& path) {
    ReadTakes read;
    if (std::filesystem::exists(path.toStdString())) {
        read = read_takes(path.toStdString());
    }
    if (!read.problems.empty()) {
        return read.problems.front();
    }
    const auto is_taken = [&](const std::string& wanted) {
        return std::any_of(read.takes.begin(), read.takes.end(),
                           [&](const Take& each) { return each.name == wanted; });
    };
    size_t number = read.takes.size() + 1;
    const auto numbered = [&] { return name.arg(number).toStdString(); };
    while (is_taken(numbered())) {
        ++number;
    }
    take.name = numbered();
    read.takes.push_back(take);
    return save_takes(read.takes, path.toStdString());
}

QString now_in_words() {
    return QDateTime::currentDateTime().toString(QStringLiteral("d MMM yyyy, HH:mm"));
}

} // namespace

void Workbench::addTake(std::optional<Take> take, const QByteArray& picture) {
    if (!take) {
        emit said(tr("Nothing to keep: play from the start first (B)"), 6000);
        return;
    }
    take->kept_at = now_in_words().toStdString();
    take->worst_frame_ms = worst_frame_ms_;
    take->most_particles = most_particles_;
    take->picture = picture.toStdString();
    const auto problem = append_take(*take, tr("Take %1"), takesPath());
    emit said(problem
                  ? tr("Not kept: %1").arg(QString::fromStdString(problem->text()))
                  : tr("Kept as %1; Ctrl+Shift+T shows the takes").arg(QString::fromStdString(take->name)),
              problem ? 15000 : 6000);
}

void Workbench::bringLostRuns() {
    for (const LostRun& run : run_writer_.lost()) {
        ReadTakes read = read_takes(run.file.toStdString());
        const QString path =
            run.original.isEmpty() ? state_folder_ + "/lost-runs.takes.json" : takes_path_of(run.original);
        if (!read.takes.empty()) {
            Take& take = read.takes.front();
            take.kept_at = now_in_words().toStdString();
            if (const auto problem = append_take(take, tr("Run %1 before the program ended"), path)) {
                emit said(tr("A run of a program that did not end well could not be kept: %1")
                              .arg(QString::fromStdString(problem->text())),
                          15000);
                continue;
            }
            emit said(tr("What was playing when the program ended is kept as a take in %1").arg(path), 12000);
        }
        RunWriter::discard(run);
    }
}

void Workbench::replay(const Take& take) {
    const EffectPtr& last = std::prev(take.effects.end())->second;
    if (*last != *effect()) {
        edit(*last, tr("the effect of %1").arg(QString::fromStdString(take.name)));
    }
    waiting_take_ = std::make_shared<const Take>(take);
    beginReplay();
}

// Once the files of all its effects have been read: without them it would go another way.
void Workbench::beginReplay() {
    Assets assets;
    for (const auto& [step, effect] : waiting_take_->effects) {
        const Assets own = loader_.assetsFor(effect, document_.folder());
        if (loader_.isReading()) {
            return;
        }
        assets.by_key.insert(own.by_key.begin(), own.by_key.end());
    }
    const std::shared_ptr<const Take> take = std::exchange(waiting_take_, nullptr);
    player_.replay(take, assets);
    setPlaying(true);
    emit said(tr("%1 plays again; Ctrl+L goes on live").arg(QString::fromStdString(take->name)), 6000);
}

void Workbench::goOnLive() {
    player_.set_effect(effect(), assets());
    emit said(tr("Live from here on"), 3000);
}

} // namespace ember
