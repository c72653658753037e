// The window: it owns the document, the player and the picture maker, and carries edits from the panels to
// the document and everything else back.
#pragma once

#include "core/runtime/player.h"
#include "desktop/document.h"
#include "desktop/readings.h"
#include "render/camera.h"

#include <QElapsedTimer>
#include <QMainWindow>

#include <memory>
#include <vector>

class QMenu;
class QProgressBar;
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
class TopBar;

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

    /// The commands with their shortcuts, as the list on F1 shows them.
    const std::vector<QAction*>& commands() const { return commands_; }

  signals:
    /// A picture has reached the live view.
    void pictureShown();

  protected:
    void closeEvent(QCloseEvent* event) override;

  private:
    QAction* command(QMenu* menu, const QString& text, const QKeySequence& keys, const QString& tip,
                     auto run);
    void makeCommands();
    void makeElementCommands(QMenu* menu);
    void arrange();
    QWidget* boardWidget() const;
    QWidget* viewWidget() const;
    QWidget* detailWidget() const;
    void connectPanels();

    void applyEdit(const Effect& effect, const QString& label, const QString& gesture);
    void onEffectChanged(const EffectPtr& effect);
    void onStateChanged();
    void onShot();
    void showReading();
    void giveToPlayer();
    void setPlaying(bool playing);
    void rewind();
    void add(const QString& type_key);
    void removeSelected();
    void duplicateSelected();
    void copySelected();
    void paste();
    void moveSelected(int by);
    void find();
    void setSeed(uint32_t seed);
    void keepView();
    void renameEffect();
    void showShortcuts();
    /// The selected element, or nullptr if the stage or the budget is selected.
    const Element* selectedElement() const;

    Document document_;
    std::unique_ptr<Player> player_;
    std::unique_ptr<PictureMaker> maker_;
    AssetLoader* loader_;
    QProgressBar* reading_ = nullptr;
    QToolButton* stop_reading_ = nullptr;
    Files* files_;
    QMenu* menu_;
    QMenu* element_menu_ = nullptr;
    QAction* undo_ = nullptr;
    QAction* redo_ = nullptr;
    QAction* rewind_ = nullptr;
    QAction* play_ = nullptr;
    QAction* step_ = nullptr;
    std::vector<QAction*> element_commands_;
    std::vector<QAction*> commands_;

    TopBar* top_ = nullptr;
    BoardPanel* board_ = nullptr;
    LiveView* view_ = nullptr;
    LensBar* lens_bar_ = nullptr;
    DetailPanel* detail_ = nullptr;
    BudgetStrip* strip_ = nullptr;

    std::string selection_;
    uint32_t shown_seed_ = 0;
    Camera effect_camera_; // as the shown effect has it
    SmoothedCosts costs_;
    QElapsedTimer figures_age_;
};

} // namespace ember
