// The window: it arranges the panels, asks what has to be asked, and connects everything with the workbench.
#pragma once

#include "core/budget/trial.h"
#include "desktop/dialogs/history_list.h"
#include "desktop/workbench/workbench.h"

#include <QElapsedTimer>
#include <QMainWindow>
#include <QPointer>
#include <QTimer>

#include <functional>
#include <vector>

class QMenu;
class QProgressBar;
class QToolButton;

namespace ember {

class BoardPanel;
class BudgetStrip;
class DetailPanel;
class Files;
class FoldingSplitter;
class Gallery;
class LensBar;
class LiveView;
class TextureBench;
class TopBar;
class TrialSheet;
class WhyCard;
class WordEditor;

class MainWindow : public QMainWindow {
    Q_OBJECT

  public:
    explicit MainWindow(const QString& state_folder, int autosave_ms = 15000);
    ~MainWindow() override;

    Workbench& workbench() { return workbench_; }
    Files& files() { return *files_; }
    BoardPanel* boardPanel() const { return board_; }
    LiveView* view() const { return view_; }
    LensBar* lensBar() const { return lens_bar_; }
    DetailPanel* detail() const { return detail_; }
    BudgetStrip* strip() const { return strip_; }
    WhyCard* whyCard() const { return why_; }
    TopBar* topBar() const { return top_; }
    /// What an id names: a texture is shown on its bench.
    void select(const std::string& id);
    /// Made when it is first opened.
    TextureBench* textureBench() const { return texture_bench_; }

    /// In which everything can be reached.
    static constexpr QSize least_size = {1000, 640};

    /// The commands with their shortcuts, as the list on F1 shows them.
    const std::vector<QAction*>& commands() const { return commands_; }

  signals:
    /// A picture has reached the live view.
    void pictureShown();

  protected:
    void closeEvent(QCloseEvent* event) override;
    void dragEnterEvent(QDragEnterEvent* event) override;
    void dropEvent(QDropEvent* event) override;
    void showEvent(QShowEvent* event) override;
    void keyPressEvent(QKeyEvent* event) override;
    /// Of the whole program: undo and redo are the document's in every field in which nothing is being typed.
    bool eventFilter(QObject* watched, QEvent* event) override;

  private:
    QAction* command(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                     const std::function<void()>& run);
    void makeCommands();
    void makeElementCommands(QMenu* menu);
    void arrange();
    QWidget* boardWidget() const;
    QWidget* viewWidget() const;
    QWidget* detailWidget() const;
    void connectPanels();
    void connectReading();

    void onEffectChanged(const EffectPtr& effect);
    void onSelection(const std::string& id);
    void editWord(const std::string& id, const std::string& key, const QPoint& place);
    void onStateChanged();
    void onShot(const Shot& shot);
    void say(const QString& text, int ms);
    /// `key`: see offers_to_add().
    void add(const QString& key);
    void chooseToStart();
    void letRemove(Gallery& gallery);
    std::vector<std::string> chosenSources() const;
    void keepPreset(Presets::Kind kind);
    void wearLook();
    void chooseToAdd(Family first, Family last);
    void groupChosen();
    void renameGroup(const std::string& group);
    void find();
    void setInterfaceSize(int percent);
    void widenBoard();
    enum class Panel { board, detail, strip };
    void foldPanel(Panel panel);
    void showOnlyPicture(bool only);
    void savePicture();
    QImage smallPicture(QSize size);
    void keepHistoryPicture();
    void showHistory();
    /// The sheet to try seeds and numbers, at the moment that is shown.
    TrialSheet* tryHere();
    /// The marked part of the time, or from the start to its end, or to a few seconds.
    Span spanToMeasure() const;
    QSize pixelsToMeasure() const;
    void measureWorth();
    void fillMachines();
    void openMachine();
    void fitToBudget();
    void bakeFrames();
    void compare();
    void take(const QString& path, const QPoint& place);
    void compareValues(const std::string& holder, const std::string& key);
    void keepTake();
    void showTakes();
    void renameEffect();
    void showShortcuts();
    /// Shows the texture with this id; empty: whichever.
    void openTextureBench(const std::string& id);
    void showTextures(const Assets& assets);

    Workbench workbench_;
    QProgressBar* reading_ = nullptr;
    QToolButton* stop_reading_ = nullptr;
    Files* files_;
    QMenu* menu_;
    QMenu* element_menu_ = nullptr;
    QMenu* speeds_ = nullptr;
    QMenu* machine_menu_ = nullptr;
    QPointer<WordEditor> word_editor_;
    HistoryPictures history_pictures_;
    QPointer<HistoryList> history_list_;
    QTimer seen_; // what an edit led to
    QAction* undo_ = nullptr;
    QAction* wide_board_ = nullptr;
    QAction* redo_ = nullptr;
    QAction* rewind_ = nullptr;
    QAction* play_ = nullptr;
    QAction* step_ = nullptr;
    QAction* without_cleanup_ = nullptr;
    std::vector<QAction*> element_commands_;
    std::vector<QAction*> commands_;

    TopBar* top_ = nullptr;
    FoldingSplitter* sides_ = nullptr;         // board, view, detail
    FoldingSplitter* whole_ = nullptr;         // those, and the strip
    QList<int> sides_before_, heights_before_; // nothing but the picture was left
    BoardPanel* board_ = nullptr;
    LiveView* view_ = nullptr;
    LensBar* lens_bar_ = nullptr;
    DetailPanel* detail_ = nullptr;
    BudgetStrip* strip_ = nullptr;
    WhyCard* why_ = nullptr;
    TextureBench* texture_bench_ = nullptr;

    bool has_been_shown_ = false;
    bool has_flying_camera_ = false; // as the shown effect has it
    QElapsedTimer figures_age_, driven_age_;
};

} // namespace ember
