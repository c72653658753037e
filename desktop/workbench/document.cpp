#include "desktop/workbench/document.h"

#include "core/effect/effect_file.h"

#include <QCoreApplication>
#include <QDateTime>
#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QSaveFile>
#include <QUuid>

namespace ember {

namespace {

const QString kept_ending = QStringLiteral(".ember.json");

QString companion(const QString& kept_file, const char* ending) {
    return kept_file.chopped(kept_ending.size()) + QLatin1String(ending);
}

} // namespace

Document::Document(const QString& state_folder, int autosave_ms, QObject* parent)
    : QObject(parent), state_folder_(state_folder), key_(QUuid::createUuid().toString(QUuid::WithoutBraces)),
      history_(std::make_shared<const Effect>(starter_effect())) {
    QDir().mkpath(state_folder_);
    lock_ = std::make_unique<QLockFile>(state_folder_ + "/" + key_ + ".lock");
    lock_->setStaleLockTime(0);
    lock_->tryLock();
    connect(&autosave_, &QTimer::timeout, this, &Document::keepUnsavedWork);
    autosave_.start(autosave_ms);
}

Document::~Document() {
    forgetKeptWork();
}

QString Document::displayName() const {
    return QString::fromStdString(effect()->name);
}

void Document::apply(Effect effect, const QString& label, const QString& gesture) {
    if (effect == *this->effect()) {
        return; // nothing was changed, so there is nothing to take back
    }
    history_.push(std::make_shared<const Effect>(std::move(effect)), label.toStdString(),
                  gesture.toStdString());
    changed();
}

void Document::undo() {
    history_.undo();
    changed();
}

void Document::redo() {
    history_.redo();
    changed();
}

void Document::goTo(size_t step) {
    if (step < history_.size() && step != history_.now()) {
        history_.go_to(step);
        changed();
    }
}

void Document::reset(Effect effect, const QString& path, const QString& folder) {
    history_.reset(std::make_shared<const Effect>(std::move(effect)));
    path_ = path;
    folder_ = path.isEmpty() ? folder : QFileInfo(path).absolutePath();
    forgetKeptWork();
    emit replaced(this->effect());
    changed();
}

std::optional<Problem> Document::save(const QString& path) {
    if (auto problem = save_effect(*effect(), path.toStdString())) {
        return problem;
    }
    history_.mark_saved();
    path_ = path;
    folder_ = QFileInfo(path).absolutePath();
    forgetKeptWork();
    emit stateChanged();
    return std::nullopt;
}

void Document::changed() {
    emit effectChanged(effect());
    emit stateChanged();
}

QString Document::keptFile() const {
    return state_folder_ + "/" + key_ + kept_ending;
}

void Document::keepUnsavedWork() {
    if (isSaved()) {
        forgetKeptWork();
        return;
    }
    if (kept_ == effect()) {
        return;
    }
    if (const auto problem = save_effect(*effect(), keptFile().toStdString())) {
        emit keepingFailed(QString::fromStdString(problem->text()));
        return;
    }
    QSaveFile origin(companion(keptFile(), ".origin"));
    if (origin.open(QIODevice::WriteOnly)) {
        origin.write(path_.toUtf8());
        origin.commit();
    }
    kept_ = effect();
}

void Document::forgetKeptWork() {
    QFile::remove(keptFile());
    QFile::remove(companion(keptFile(), ".origin"));
    kept_.reset();
}

std::vector<LostWork> Document::lostWork() const {
    std::vector<LostWork> lost;
    const QDir folder(state_folder_);
    for (const QFileInfo& info : folder.entryInfoList({"*" + kept_ending}, QDir::Files, QDir::Time)) {
        // A program that still runs holds its lock.
        QLockFile lock(companion(info.filePath(), ".lock"));
        lock.setStaleLockTime(0);
        if (info.filePath() == keptFile() || !lock.tryLock()) {
            continue;
        }
        QFile origin(companion(info.filePath(), ".origin"));
        const QString original =
            origin.open(QIODevice::ReadOnly) ? QString::fromUtf8(origin.readAll()) : QString();
        lost.push_back(
            {info.filePath(), original, info.lastModified().toString(QStringLiteral("d MMMM yyyy, HH:mm"))});
    }
    return lost;
}

Problems Document::recover(const LostWork& work) {
    ReadResult read = read_effect(work.file.toStdString());
    if (!read.effect) {
        return read.problems;
    }
    history_.reset(std::make_shared<const Effect>(std::move(*read.effect)));
    history_.mark_unsaved();
    path_ = work.original;
    folder_ = path_.isEmpty() ? QString() : QFileInfo(path_).absolutePath();
    keepUnsavedWork();
    if (kept_) {
        discard(work);
    }
    emit replaced(effect());
    changed();
    return {};
}

void Document::discard(const LostWork& work) {
    QFile::remove(work.file);
    QFile::remove(companion(work.file, ".origin"));
}

} // namespace ember
