// The open document: the effect with its history and its file.
//
// Every edit comes in through apply() and goes out through effectChanged(). Nothing here asks the user
// anything: questions are the main window's.
#pragma once

#include "core/base/problem.h"
#include "core/effect/history.h"

#include <QLockFile>
#include <QObject>
#include <QString>
#include <QTimer>

#include <memory>
#include <optional>

namespace ember {

/// Unsaved work of a program that did not end well.
struct LostWork {
    QString file;     // where the work was kept
    QString original; // the file that was open; empty if it had none
    QString saved_at; // date and time for people
};

class Document : public QObject {
    Q_OBJECT

  public:
    /// `state_folder`: where unsaved work is kept while it is unsaved. `autosave_ms`: how often.
    explicit Document(const QString& state_folder, int autosave_ms = 15000, QObject* parent = nullptr);
    ~Document() override;

    const EffectPtr& effect() const { return history_.current(); }
    const History& history() const { return history_; }
    bool isSaved() const { return history_.is_saved(); }
    /// The file; empty if it was never saved.
    QString path() const { return path_; }
    QString displayName() const;
    /// Where the files lie that the effect names; empty if nobody knows.
    QString folder() const { return folder_; }

    void apply(Effect effect, const QString& label, const QString& gesture = {});
    void endGesture() { history_.end_gesture(); }
    void undo();
    void redo();
    /// To a step of the history; nothing happens if there is none such.
    void goTo(size_t step);

    /// `folder`: where its files lie, if it has no path of its own.
    void reset(Effect effect, const QString& path, const QString& folder = {});
    /// Nothing if that went well; on a problem the document and the old file are as they were.
    std::optional<Problem> save(const QString& path);

    /// Work of crashed programs that nobody has claimed.
    std::vector<LostWork> lostWork() const;
    /// Opens lost work as unsaved changes. Problems if it cannot be read.
    Problems recover(const LostWork& work);
    void discard(const LostWork& work);

    /// Keeps the unsaved work now, without waiting for the timer.
    void keepUnsavedWork();

  signals:
    void effectChanged(const ember::EffectPtr& effect);
    /// Another effect has taken the place of the old one; comes before effectChanged().
    void replaced(const ember::EffectPtr& effect);
    /// The name, the file or whether it is saved.
    void stateChanged();
    /// Keeping unsaved work failed; says why.
    void keepingFailed(const QString& why);

  private:
    void changed();
    QString keptFile() const;
    void forgetKeptWork();

    QString state_folder_;
    QString key_; // names this program's kept work
    std::unique_ptr<QLockFile> lock_;
    QTimer autosave_;
    EffectPtr kept_; // what the kept file holds
    History history_;
    QString path_;
    QString folder_;
};

} // namespace ember
