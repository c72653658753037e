// The window: it owns the document, the player and the picture maker, and carries edits from the panels to
// the document and everything else back.
#pragma once

#include "core/runtime/player.h"
#include "desktop/document.h"
#include "desktop/readings.h"
#include "render/camera.h"

#include <QElapsedTimer>
#include <QMainWindow>
#include <QPointer>

#include <functional>
#include <memory>
#include <vector>

class QMenu;
class QProgressBar;
class QSplitter;
class QToolButton;

namespace ember {

class BoardPanel;
class AssetLoader;
class BudgetStrip;
class DetailPanel;
class Files;
class LensBar;
class LiveView;
class PictureMaker;
class TextureBench;
class TopBar;
class WordEditor;

class MainWindow : public QMainWindow {
    Q_OBJECT

  public:
    explicit MainWindow(const QString& state_folder, int autosave_ms = 15000);
    ~MainWindow() override;

    Document& document() { return document_; }
    Files& files() { return *files_; }
    Player& player() { return *player_; }
    PictureMaker& pictureMaker() { return *maker_; }
    BoardPanel* boardPanel() const { return board_; }
    LiveView* view() const { return view_; }
    LensBar* lensBar() const { return lens_bar_; }
    DetailPanel* detail() const { return detail_; }
    BudgetStrip* strip() const { return strip_; }
    TopBar* topBar() const { return top_; }
    const std::string& selection() const { return selection_; }
    void select(const std::string& id);
    /// Made when it is first opened.
    TextureBench* textureBench() const { return texture_bench_; }

    /// The commands with their shortcuts, as the list on F1 shows them.
    const std::vector<QAction*>& commands() const { return commands_; }

  signals:
    /// A picture has reached the live view.
    void pictureShown();

  protected:
    void closeEvent(QCloseEvent* event) override;
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

    void applyEdit(const Effect& effect, const QString& label, const QString& gesture);
    void onEffectChanged(const EffectPtr& effect);
    void editWord(const std::string& id, const std::string& key, const QPoint& place);
    void onStateChanged();
    void onShot();
    void showReading();
    void giveToPlayer();
    void setPlaying(bool playing);
    void rewind();
    void goTo(std::optional<double> time_s);
    /// `key`: see offers_to_add().
    void add(const QString& key);
    void addSourcesOf(const QString& path);
    void chooseToStart();
    void chooseToAdd(Family first, Family last);
    void editChosen(const QString& what,
                    const std::function<Effect(const Effect&, const std::string&)>& edit);
    void selectNew(const std::vector<std::string>& ids);
    void removeChosen();
    void duplicateChosen();
    void copyChosen();
    void paste();
    void moveChosen(int by);
    void groupChosen();
    void renameGroup(const std::string& group);
    void find();
    void setSeed(uint32_t seed);
    void restartAt(int percent);
    void widenBoard();
    void savePicture();
    void focusOn(const Vec3& point);
    void keepView();
    void renameEffect();
    void showShortcuts();
    /// Shows the texture with this id; empty: whichever.
    void openTextureBench(const std::string& id);
    /// The selected element, or nullptr if the stage or the budget is selected.
    const Element* selectedElement() const;

    Document document_;
    std::unique_ptr<Player> player_;
    bool plays_on_ = false; // once the moment that is pointed at is let go of
    std::unique_ptr<PictureMaker> maker_;
    AssetLoader* loader_;
    QProgressBar* reading_ = nullptr;
    QToolButton* stop_reading_ = nullptr;
    Files* files_;
    QMenu* menu_;
    QMenu* element_menu_ = nullptr;
    QPointer<WordEditor> word_editor_;
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
    QSplitter* sides_ = nullptr; // board, view, detail
    BoardPanel* board_ = nullptr;
    LiveView* view_ = nullptr;
    LensBar* lens_bar_ = nullptr;
    DetailPanel* detail_ = nullptr;
    BudgetStrip* strip_ = nullptr;
    TextureBench* texture_bench_ = nullptr;

    std::string selection_;
    uint32_t shown_seed_ = 0;
    bool starts_anew_ = false; // with the effect that the player is given next
    bool lacks_files_ = false; // since it was started
    Camera effect_camera_;     // as the shown effect has it
    SmoothedCosts costs_;
    QElapsedTimer figures_age_, driven_age_;
};

} // namespace ember
