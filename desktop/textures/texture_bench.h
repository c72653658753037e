// Where textures are made: a list of them, the chosen one as a picture that follows every edit, and its
// numbers.
#pragma once

#include "core/assets/assets.h"
#include "core/textures/texture_maker.h"

#include <QDialog>
#include <QImage>

#include <memory>

class QCheckBox;
class QComboBox;
class QLabel;
class QListWidget;
class QToolButton;

namespace ember {

class DetailPanel;

/// A texture, over squares that show through where it is not opaque.
class TextureView : public QWidget {
    Q_OBJECT

  public:
    explicit TextureView(QWidget* parent = nullptr);

    void setImage(const Image& image);
    /// Four of them side by side, to look at the seams.
    void setTiled(bool tiled);
    const QImage& shown() const { return image_; }
    QSize sizeHint() const override { return {384, 384}; }

  protected:
    void paintEvent(QPaintEvent*) override;

  private:
    QImage image_;
    bool tiled_ = false;
};

class TextureBench : public QDialog {
    Q_OBJECT

  public:
    explicit TextureBench(QWidget* parent = nullptr);

    void setEffect(const EffectPtr& effect, const Assets& assets);
    void setFiles(const QString& folder, const QString& problem);
    /// Shows the texture with this id; the first one if there is none.
    void choose(const std::string& id);
    const std::string& chosen() const { return chosen_; }

    DetailPanel* detail() const { return detail_; }
    TextureView* view() const { return view_; }
    /// Adds a texture of this kind and chooses it.
    void add(TextureKind kind);
    void remove();
    /// Asks where, then saves the texture at the chosen size and depth.
    void save();

  signals:
    void edited(const ember::Effect& effect, const QString& label, const QString& gesture);
    void gestureEnded();

  private:
    void fillList();
    void showChosen();
    const Image* imageOf(const Texture& texture) const;
    QString usersText() const;

    EffectPtr effect_;
    Assets assets_;
    std::string chosen_;
    QString folder_;
    std::vector<Texture> listed_; // as the list shows them
    Texture shown_;               // as the view shows it
    const Image* shown_image_ = nullptr;

    QListWidget* list_;
    QToolButton* remove_;
    TextureView* view_;
    QLabel* users_;
    QCheckBox* tiled_;
    QComboBox* side_;
    QComboBox* depth_;
    QToolButton* save_;
    QLabel* said_;
    QLabel* empty_;
    DetailPanel* detail_;
};

} // namespace ember
