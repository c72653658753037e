#include "desktop/textures/texture_bench.h"

#include "core/effect/edit.h"
#include "desktop/controls/choice_box.h"
#include "desktop/controls/parameter_text.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/theme.h"

#include <QCheckBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QPainter>
#include <QProgressDialog>
#include <QSignalBlocker>
#include <QToolButton>
#include <QVBoxLayout>

#include <algorithm>

namespace ember {

namespace {

constexpr int preview_side = 256;
constexpr int icon_side = 44;

QImage as_image(const Image& picture) {
    QImage image(picture.width, picture.height, QImage::Format_ARGB32);
    for (int y = 0; y < picture.height; ++y) {
        auto* row = reinterpret_cast<QRgb*>(image.scanLine(y));
        for (int x = 0; x < picture.width; ++x) {
            const Colour& c = picture.at(x, y);
            const auto part = [](float light) {
                return int(srgb_of(std::clamp(light, 0.0f, 1.0f)) * 255 + 0.5f);
            };
            row[x] = qRgba(part(c.red), part(c.green), part(c.blue), int(c.alpha * 255 + 0.5f));
        }
    }
    return image;
}

} // namespace

TextureView::TextureView(QWidget* parent) : QWidget(parent) {
    setMinimumSize(256, 256);
    setAccessibleName(tr("The texture"));
}

void TextureView::setImage(const Image& image) {
    image_ = as_image(image);
    update();
}

void TextureView::setTiled(bool tiled) {
    tiled_ = tiled;
    update();
}

void TextureView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    const int side = std::min(width(), height());
    const QRect all((width() - side) / 2, (height() - side) / 2, side, side);
    constexpr int square = 12;
    painter.setClipRect(all);
    for (int y = 0; y < side; y += square) {
        for (int x = 0; x < side; x += square) {
            const bool is_light = (x / square + y / square) % 2 == 0;
            painter.fillRect(all.left() + x, all.top() + y, square, square,
                             is_light ? theme::raised : theme::panel);
        }
    }
    if (image_.isNull()) {
        return;
    }
    painter.setRenderHint(QPainter::SmoothPixmapTransform);
    const int count = tiled_ ? 2 : 1;
    for (int i = 0; i < count; ++i) {
        for (int j = 0; j < count; ++j) {
            const int part = side / count;
            painter.drawImage(QRect(all.left() + i * part, all.top() + j * part, part, part), image_);
        }
    }
}

TextureBench::TextureBench(QWidget* parent)
    : QDialog(parent), list_(new QListWidget(this)), remove_(new QToolButton(this)),
      view_(new TextureView(this)), users_(new QLabel(this)), tiled_(new QCheckBox(tr("Side by side"), this)),
      side_(new ChoiceBox(this)), depth_(new ChoiceBox(this)), save_(new QToolButton(this)),
      said_(new QLabel(this)), empty_(new QLabel(this)), detail_(new DetailPanel(this)) {
    setWindowTitle(tr("Texture bench"));
    resize(1120, 640);

    auto* add_button = new QToolButton(this);
    add_button->setText(tr("+ texture"));
    add_button->setToolTip(tr("Makes a texture: a pattern, noise, or one from an image."));
    add_button->setPopupMode(QToolButton::InstantPopup);
    auto* kinds = new QMenu(add_button);
    const Parameter& kind = *Holder{nullptr, texture_parameters(), {}}.find("kind");
    for (size_t i = 0; i < kind.choices.size(); ++i) {
        kinds->addAction(qtext(kind.choices[i]), this, [this, i] { add(TextureKind(i)); });
    }
    add_button->setMenu(kinds);
    remove_->setText(tr("Delete"));
    remove_->setToolTip(tr("Takes the texture away; layers that use it become white. Undo brings it back."));
    connect(remove_, &QToolButton::clicked, this, &TextureBench::remove);
    list_->setIconSize({icon_side, icon_side});
    list_->setAccessibleName(tr("Textures"));
    list_->setToolTip(tr("The textures of this effect. A look's layers show them."));
    connect(list_, &QListWidget::currentRowChanged, this, [this](int row) {
        if (row >= 0 && size_t(row) < effect_->textures.size()) {
            choose(effect_->textures[size_t(row)].id);
        }
    });

    tiled_->setToolTip(tr("Shows the texture four times, to look at its seams."));
    connect(tiled_, &QCheckBox::toggled, view_, &TextureView::setTiled);
    for (int side = 64; side <= most_texture_side; side *= 2) {
        side_->addItem(tr("%1 px").arg(side), side);
    }
    side_->setCurrentIndex(3);
    side_->setToolTip(tr("Width and height of the saved picture. Images keep their own."));
    side_->setAccessibleName(tr("Size"));
    depth_->addItem(tr("8 bit"), int(PngDepth::bits8));
    depth_->addItem(tr("16 bit"), int(PngDepth::bits16));
    depth_->setToolTip(tr("Bits of each colour. 16 keep soft gradients free of steps."));
    depth_->setAccessibleName(tr("Depth"));
    save_->setText(tr("Save as PNG..."));
    save_->setToolTip(tr("Saves the texture as a picture, for other programs."));
    connect(save_, &QToolButton::clicked, this, &TextureBench::save);
    users_->setProperty("ink", "quiet");
    users_->setWordWrap(true);
    said_->setProperty("ink", "quiet");
    said_->setWordWrap(true);
    empty_->setText(
        tr("No textures yet.\n\nA texture is a picture for the surface layers of cards, meshes and "
           "skins: dots, a grid, rings, cells, noise, or an image.\n\nMake one with \"+ texture\", "
           "then choose it in a look's Layer 1."));
    empty_->setWordWrap(true);
    empty_->setAlignment(Qt::AlignTop);
    empty_->setContentsMargins(20, 20, 20, 20);
    detail_->setMinimumWidth(340);

    auto* left = new QVBoxLayout;
    auto* buttons = new QHBoxLayout;
    buttons->addWidget(add_button);
    buttons->addWidget(remove_);
    buttons->addStretch();
    left->addLayout(buttons);
    left->addWidget(list_, 1);
    auto* middle = new QVBoxLayout;
    middle->addWidget(view_, 1);
    middle->addWidget(users_);
    auto* saving = new QHBoxLayout;
    saving->addWidget(tiled_);
    saving->addStretch();
    saving->addWidget(side_);
    saving->addWidget(depth_);
    saving->addWidget(save_);
    middle->addLayout(saving);
    middle->addWidget(said_);
    auto* layout = new QHBoxLayout(this);
    layout->addLayout(left, 2);
    layout->addLayout(middle, 5);
    layout->addWidget(empty_, 3);
    layout->addWidget(detail_, 3);

    connect(detail_, &DetailPanel::edited, this, &TextureBench::edited);
    connect(detail_, &DetailPanel::gestureEnded, this, &TextureBench::gestureEnded);
}

void TextureBench::setEffect(const EffectPtr& effect, const Assets& assets) {
    effect_ = effect;
    assets_ = assets;
    if (!isVisible()) {
        return;
    }
    detail_->setEffect(effect);
    if (find_texture(*effect_, chosen_) == nullptr) {
        chosen_ = effect_->textures.empty() ? std::string() : effect_->textures.front().id;
    }
    fillList();
    showChosen();
}

void TextureBench::setFiles(const QString& folder, const QString& problem) {
    folder_ = folder;
    detail_->setFiles(folder, problem);
}

void TextureBench::choose(const std::string& id) {
    chosen_ = id;
    setEffect(effect_, assets_);
}

const Image* TextureBench::imageOf(const Texture& texture) const {
    for (const AssetNeed& need : needs_of(texture)) {
        return assets_.find<Image>(need.key()).get(); // kept by assets_
    }
    return nullptr;
}

void TextureBench::fillList() {
    const QSignalBlocker blocker(list_);
    while (size_t(list_->count()) > effect_->textures.size()) {
        delete list_->takeItem(list_->count() - 1);
    }
    listed_.resize(effect_->textures.size());
    for (size_t i = 0; i < listed_.size(); ++i) {
        const Texture& texture = effect_->textures[i];
        if (int(i) >= list_->count()) {
            list_->addItem(QString());
        } else if (listed_[i] == texture && texture.kind != TextureKind::image) {
            continue;
        }
        listed_[i] = texture;
        QListWidgetItem* item = list_->item(int(i));
        item->setText(QString::fromStdString(texture.name));
        item->setIcon(QPixmap::fromImage(as_image(made_texture(texture, icon_side, imageOf(texture))))
                          .scaled(icon_side, icon_side));
    }
    const auto chosen = std::find_if(effect_->textures.begin(), effect_->textures.end(),
                                     [&](const Texture& each) { return each.id == chosen_; });
    list_->setCurrentRow(chosen == effect_->textures.end() ? -1 : int(chosen - effect_->textures.begin()));
}

void TextureBench::showChosen() {
    const Texture* texture = find_texture(*effect_, chosen_);
    for (QWidget* each :
         std::initializer_list<QWidget*>{detail_, view_, users_, side_, depth_, save_, tiled_}) {
        each->setVisible(texture != nullptr);
    }
    empty_->setVisible(texture == nullptr);
    remove_->setEnabled(texture != nullptr);
    if (texture == nullptr) {
        return;
    }
    detail_->setSelection(chosen_);
    users_->setText(usersText());
    const Image* image = imageOf(*texture);
    if (*texture != shown_ || image != shown_image_) {
        shown_ = *texture;
        shown_image_ = image;
        view_->setImage(made_texture(*texture, preview_side, image));
        said_->clear();
    }
}

QString TextureBench::usersText() const {
    QStringList users;
    for (const Look& look : effect_->looks) {
        const bool uses = std::any_of(look.layers.begin(), look.layers.end(), [&](const Layer& layer) {
            return layer.from == LayerFrom::texture && layer.texture == chosen_;
        });
        if (uses) {
            users += QString::fromStdString(look.name);
        }
    }
    return users.isEmpty()
               ? tr("Not used yet: choose it in a layer of a look that draws cards, meshes or a surface.")
               : tr("Used by %1.").arg(users.join(tr(", ")));
}

void TextureBench::add(TextureKind kind) {
    if (effect_->textures.size() >= most_textures) {
        said_->setText(tr("Not added: an effect has at most %1 textures.").arg(most_textures));
        return;
    }
    std::string id;
    const Effect effect = with_new_texture(*effect_, kind, id);
    chosen_ = id;
    emit edited(effect, tr("add a texture"), {});
}

void TextureBench::remove() {
    emit edited(without_texture(*effect_, chosen_), tr("delete a texture"), {});
}

void TextureBench::save() {
    const Texture texture = *find_texture(*effect_, chosen_);
    QFileDialog dialog(this, tr("Save the texture"), folder_, tr("PNG pictures (*.png)"));
    dialog.setOption(QFileDialog::DontUseNativeDialog);
    dialog.setAcceptMode(QFileDialog::AcceptSave);
    dialog.setDefaultSuffix(QStringLiteral("png"));
    dialog.selectFile(QString::fromStdString(texture.id) + ".png");
    if (dialog.exec() != QDialog::Accepted) {
        return;
    }
    const QString path = dialog.selectedFiles().constFirst();
    QProgressDialog waiting(tr("Making the texture"), tr("Cancel"), 0, 100, this);
    waiting.setWindowModality(Qt::WindowModal);
    waiting.setMinimumDuration(300);
    Progress progress;
    progress.report = [&](const std::string&, float share) {
        waiting.setValue(int(share * 99));
        return !waiting.wasCanceled();
    };
    const Image image = made_texture(texture, side_->currentData().toInt(), imageOf(texture), progress);
    if (image.pixels.empty()) {
        return said_->setText(tr("Not saved: cancelled."));
    }
    const auto problem = write_png(image, PngDepth(depth_->currentData().toInt()), path.toStdString());
    waiting.reset();
    said_->setText(problem ? tr("Not saved: %1").arg(QString::fromStdString(problem->text()))
                           : tr("Saved %1, %2x%3 pixels.").arg(path).arg(image.width).arg(image.height));
}

} // namespace ember
