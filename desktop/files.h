// What the artist does with files: new, open, save, recent ones, lost work; and the questions that go with
// it.
#pragma once

#include "desktop/workbench/document.h"

#include <QObject>
#include <QStringList>

class QMenu;
class QWidget;

namespace ember {

class Files : public QObject {
    Q_OBJECT

  public:
    Files(Document& document, QWidget* window);

    void newEffect();
    void open();
    /// Opens a file, asking about unsaved changes first and about problems after. False if it was not opened.
    bool openPath(const QString& path);
    /// Opens a copy of an effect; saving it asks for a place.
    void openCopy(const QString& path);
    /// The same of a demo effect ("sluice-spray").
    void openDemo(const QString& name) { openCopy(demoPath(name)); }
    static QString demoPath(const QString& name);
    /// The names of all demo effects.
    static QStringList demoNames();
    /// True if the document is saved now.
    bool save();
    bool saveAs();
    /// Saves to this path, and brings along the files that the effect names.
    bool saveTo(const QString& path);
    /// True if nothing unsaved would be lost, or the artist agrees to lose it.
    bool mayLeave();
    /// Offers what crashed programs left behind.
    void offerLostWork();
    /// Files that were opened or saved lately and are still there, the newest first.
    static QStringList recent();
    /// Fills a menu with the recent files.
    void fillRecent(QMenu* menu);

  private:
    /// Puts copies of the files that the effect names into another folder; true if all are there.
    bool bringFilesTo(const QString& folder);
    void remember(const QString& path);
    /// Shows problems of a file; true if what is sound in it should be opened.
    bool agreesToOpenWhatIsSound(const QString& path, const Problems& problems, bool any_sound);

    Document& document_;
    QWidget* window_;
};

} // namespace ember
