#include "desktop/dialogs/bake_sheet.h"

#include "desktop/controls/choice_box.h"
#include "desktop/controls/number_field.h"
#include "desktop/theme.h"
#include "desktop/workbench/workbench.h"
#include "render/bake_pictures.h"

#include <QCheckBox>
#include <QDir>
#include <QFileDialog>
#include <QFormLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPainter>
#include <QProgressBar>
#include <QPushButton>
#include <QVBoxLayout>

#include <algorithm>
#include <cmath>

namespace ember {

namespace {

constexpr int preview_side = 190;
constexpr int largest_cell = 1024;

} // namespace

SheetPreview::SheetPreview(QWidget* parent) : QWidget(parent) {
    setFixedSize(preview_side, preview_side);
    setToolTip(tr(
        "The sheet as a game plays it, slowed down to half: what lies between two pictures is made of them "
        "by motion vectors."));
    connect(&timer_, &QTimer::timeout, this, &SheetPreview::next);
}

void SheetPreview::play(std::shared_ptr<const SpriteSheet> sheet, double frames_per_s) {
    sheet_ = std::move(sheet);
    frames_per_s_ = frames_per_s;
    frame_ = 0;
    constexpr int shown_every_ms = 33;
    sheet_ ? timer_.start(shown_every_ms) : timer_.stop();
    setVisible(sheet_ != nullptr);
    if (sheet_) {
        next();
    }
}

void SheetPreview::next() {
    const Image image = played(*sheet_, frame_);
    frame_ = std::fmod(frame_ + frames_per_s_ * timer_.interval() / 2000.0, double(sheet_->frames));
    image_ = QImage(image.width, image.height, QImage::Format_RGB32);
    for (int y = 0; y < image.height; ++y) {
        for (int x = 0; x < image.width; ++x) {
            const Colour& c = image.at(x, y);
            const auto code = [](float part) {
                return int(srgb_of(std::clamp(part, 0.0f, 1.0f)) * 255 + 0.5f);
            };
            image_.setPixel(x, y, qRgb(code(c.red), code(c.green), code(c.blue)));
        }
    }
    update();
}

void SheetPreview::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.fillRect(rect(), Qt::black);
    if (!image_.isNull()) {
        const QImage shown = image_.scaled(size(), Qt::KeepAspectRatio, Qt::SmoothTransformation);
        painter.drawImage((width() - shown.width()) / 2, (height() - shown.height()) / 2, shown);
    }
}

BakeSheet::BakeSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span, QWidget* parent)
    : MeasuringSheet(bench, camera, pixels, span, tr("Bake"), parent),
      rate_(new NumberField(0.1, 60, 1, false, tr("0.1 to 60 frames a second."), this)),
      folder_(new QLineEdit(this)), runs_(new ChoiceBox(this)), pictures_(new ChoiceBox(this)),
      videos_(new ChoiceBox(this)), sheets_(new ChoiceBox(this)),
      width_(new NumberField(1, 16384, 16, true, tr("A width from 1 to 16384 pixels."), this)),
      height_(new NumberField(1, 16384, 16, true, tr("A height from 1 to 16384 pixels."), this)),
      alone_(new QCheckBox(tr("without the stage, with opacity"), this)),
      replace_(new QCheckBox(tr("replace what an earlier bake has left there"), this)),
      preview_(new SheetPreview(this)), lay_(new QPushButton(tr("Lay on the time axis"), this)) {
    setWindowTitle(tr("Bake"));
    const Effect& effect = *bench_.effect();
    const auto has = [&](auto is_it) {
        return std::any_of(effect.elements.begin(), effect.elements.end(),
                           [&](const Element& each) { return is_it(each.body); });
    };
    const bool has_particles = has([](const auto& body) { return std::holds_alternative<Emitter>(body); });
    const bool has_pieces = has([](const auto& body) { return std::holds_alternative<Breakable>(body); });
    const bool has_smoke = has([](const auto& body) { return std::holds_alternative<Smoke>(body); });
    const bool has_forces =
        std::any_of(effect.elements.begin(), effect.elements.end(), [](const Element& each) {
            return family_of(each.body) == Family::force && !each.links.empty();
        });
    startButton()->setToolTip(
        tr("Runs the effect from its start and writes the frames of the span. The effect that "
           "plays is not touched; paused, it leaves the whole machine to this."));
    rate_->setNumber(30);
    rate_->setAccessibleName(tr("Frames a second"));

    runs_->addItem(tr("the effect as it is now"));
    takes_ = bench_.takes();
    for (const Take& take : takes_) {
        runs_->addItem(tr("the take %1").arg(QString::fromStdString(take.name)));
    }
    runs_->setAccessibleName(tr("What runs"));
    auto* form = new QFormLayout;
    form->addRow(tr("What runs"), runs_);

    addKind("particles", tr("PLY, a file a frame"),
            tr("All particles with place, velocity, age, size and colour."), has_particles);
    addKind("particle-motion", tr("one animated GLB"), tr("At most 20,000 over the span."), has_particles);
    addKind("pieces", tr("one animated GLB"), tr("A node for each piece, with its mesh and inner faces."),
            has_pieces);
    addKind("piece-textures", tr("vertex animation textures"), tr("For thousands of pieces in a shader."),
            has_pieces);
    addKind("smoke", tr("OpenVDB, a file a frame"), tr("Density, heat and velocity, half floats."),
            has_smoke);
    addKind(
        "fields", tr("what forces do"),
        tr("OpenVDB, a file a frame: each force by itself and their sum on each source, in a box round what "
           "the camera looks at."),
        has_forces);
    addKind("pictures", {}, tr("A picture a frame."), true);
    addKind("video", {}, tr("One video with every frame."), true);
    addKind("sheet", {}, tr("All frames in one picture, trimmed, with motion vectors and normals beside it."),
            true);
    addKind("costs", tr("costs as CSV"), tr("Time, milliseconds and counts of each frame."), true);
    pictures_->addItems({tr("PNG, 8 bits"), tr("PNG, 16 bits"), tr("OpenEXR, linear light"),
                         tr("OpenEXR, with depth and each source")});
    videos_->addItems({tr("H.264 in MP4"), tr("VP9 in WebM"), tr("ProRes 4444 in MOV"), tr("PNG in MOV")});
    sheets_->addItems(
        {tr("as it is"), tr("looped: its end fades over"), tr("looped: cut where it is alike")});
    const auto beside = [&](const QString& key, QWidget* more, const QString& name) {
        auto* line = new QHBoxLayout;
        line->addWidget(kind(key));
        line->addWidget(more, 1);
        more->setAccessibleName(name);
        form->addRow(name, line);
    };
    const auto both = [&](const QString& name, const QString& one, const QString& other) {
        auto* line = new QHBoxLayout;
        line->addWidget(kind(one));
        line->addWidget(kind(other));
        line->addStretch(1);
        form->addRow(name, line);
    };
    both(tr("Particles"), "particles", "particle-motion");
    both(tr("Pieces"), "pieces", "piece-textures");
    both(tr("Smoke and forces"), "smoke", "fields");
    beside("pictures", pictures_, tr("Pictures"));
    beside("video", videos_, tr("Video"));
    beside("sheet", sheets_, tr("Sheet"));
    form->addRow(tr("Figures"), kind("costs"));
    auto* size = new QHBoxLayout;
    width_->setNumber(std::min(pixels.width() / 2 * 2, 1920));
    height_->setNumber(std::min(pixels.height() / 2 * 2, 1080));
    width_->setAccessibleName(tr("Width"));
    height_->setAccessibleName(tr("Height"));
    for (NumberField* field : {width_, height_}) {
        field->setFixedWidth(64);
    }
    size->addWidget(width_);
    size->addWidget(new QLabel(QStringLiteral("\u00d7"), this));
    size->addWidget(height_);
    size->addWidget(quiet(tr("px; a sheet's pictures are at most %1").arg(largest_cell)));
    size->addStretch(1);
    form->addRow(tr("Size"), size);
    form->addRow(QString(), alone_);
    auto* place = new QHBoxLayout;
    const QString name = bench_.document().displayName().toLower().replace(' ', '-');
    const QString home = bench_.document().folder().isEmpty() ? QDir::homePath() : bench_.document().folder();
    folder_->setText(home + "/" + name + "-baked");
    folder_->setAccessibleName(tr("Where to"));
    auto* other = new QPushButton(tr("Choose..."), this);
    other->setAutoDefault(false);
    place->addWidget(folder_, 1);
    place->addWidget(other);
    form->addRow(tr("Where to"), place);
    form->addRow(QString(), replace_);

    auto* left = new QVBoxLayout;
    left->addWidget(words_, 1);
    left->addWidget(lay_, 0, Qt::AlignLeft);
    auto* last = new QHBoxLayout;
    last->addLayout(left, 1);
    last->addWidget(preview_);
    lay_->setAutoDefault(false);
    lay_->setToolTip(
        tr("Plays the particles, the smoke and the pieces that were baked as clips, from the moment that is "
           "shown, beside "
           "what is live; one for each source. The folder has to be beside the effect's own file."));
    connect(lay_, &QPushButton::clicked, this, [this] {
        const double now_s = bench_.pictureMaker().shot().readings.time_s;
        bench_.layClips(*baked_, folder_->text(), std::max(now_s, 0.0));
    });
    preview_->hide();
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(firstLine(tr("s, with"), rate_, tr("frames a second")));
    layout->addLayout(form);
    layout->addLayout(last, 1);
    resize(620, 560);
    connect(other, &QPushButton::clicked, this, &BakeSheet::browse);
    for (const Kind& each : kinds_) {
        connect(each.box, &QCheckBox::toggled, this, [this] { showState(); });
    }
    kind("pictures")->setChecked(true);
    showState();
}

BakeSheet::~BakeSheet() {
    endWork();
}

void BakeSheet::addKind(const QString& key, const QString& words, const QString& help, bool is_there) {
    auto* box = new QCheckBox(words, this);
    box->setToolTip(is_there ? help : tr("The effect has none."));
    box->setAccessibleName(key);
    box->setEnabled(is_there);
    kinds_.push_back({key, box});
}

QCheckBox* BakeSheet::kind(const QString& key) const {
    const auto found =
        std::find_if(kinds_.begin(), kinds_.end(), [&](const Kind& each) { return each.key == key; });
    return found != kinds_.end() ? found->box : nullptr;
}

void BakeSheet::browse() {
    const QString chosen =
        QFileDialog::getExistingDirectory(this, tr("A folder for the files"), folder_->text());
    if (!chosen.isEmpty()) {
        folder_->setText(chosen);
    }
}

// What is to be written; nothing, and said, if something of it cannot be. `made` receives the sheet of
// pictures.
std::vector<BakeSheet::Maker> BakeSheet::makers(const BakeOrder& order, const MadeSheet& made) {
    std::vector<Maker> makers;
    const auto refuse = [&](const QString& why) {
        say(why);
        makers.clear();
        return makers;
    };
    const std::pair<const char*, std::unique_ptr<BakeWriter> (*)(const BakeOrder&)> plain[] = {
        {"particles", particle_files}, {"particle-motion", particle_motion_file},
        {"pieces", piece_file},        {"piece-textures", piece_textures},
        {"smoke", smoke_files},        {"fields", field_files},
        {"costs", cost_file}};
    for (const auto& [key, make] : plain) {
        if (kind(key)->isChecked()) {
            makers.emplace_back(make);
        }
    }
    const auto painter = bake_painter();
    const BakedPicture picture{int(width_->number()), int(height_->number()), alone_->isChecked()};
    if (kind("pictures")->isChecked()) {
        makers.emplace_back([=, format = PictureFormat(pictures_->currentIndex())](const BakeOrder& of) {
            return picture_files(of, painter, picture, format);
        });
    }
    if (kind("video")->isChecked()) {
        const auto format = VideoFormat(videos_->currentIndex());
        if (const auto refused = refusal_of_video(order, picture, format)) {
            return refuse(QString::fromStdString(refused->text()));
        }
        makers.emplace_back([=](const BakeOrder& of) { return video_file(of, painter, picture, format); });
    }
    if (kind("sheet")->isChecked()) {
        const int width = std::min(picture.width, largest_cell),
                  height = std::min(picture.height, largest_cell);
        if (const auto refused = refusal_of_sheet(order.frames(), width, height)) {
            return refuse(QString::fromStdString(refused->text()));
        }
        SheetChoice choice;
        choice.loop = SheetLoop(sheets_->currentIndex());
        makers.emplace_back([=](const BakeOrder& of) {
            return sheet_files(of, painter, width, height, choice, [made](const SpriteSheet& sheet) {
                *made = std::make_shared<const SpriteSheet>(sheet);
            });
        });
    }
    return makers.empty() ? refuse(tr("Not begun: choose what is written.")) : makers;
}

void BakeSheet::say(const QString& text) {
    came_of_it_ = text;
    words_->setText(text);
}

void BakeSheet::begin() {
    BakeOrder order;
    order.effect = bench_.effect();
    if (const int take = runs_->currentIndex() - 1; take >= 0) {
        order.take = std::make_shared<const Take>(takes_[size_t(take)]);
        order.effect = std::prev(order.take->effects.end())->second;
    } else if (const auto refused = refusalOf(span())) {
        return say(*refused);
    }
    order.span = span();
    order.frames_per_s = rate_->number();
    order.folder = folder_->text().toStdString();
    order.replaces = replace_->isChecked();
    const auto made = std::make_shared<std::shared_ptr<const SpriteSheet>>();
    const std::vector<Maker> wanted = makers(order, made);
    if (wanted.empty()) {
        return;
    }
    preview_->play(nullptr, 1);
    baked_.reset();
    came_of_it_.clear();
    began_.start();
    progress_->setRange(0, 1000);
    progress_->setValue(0);
    beside_.start([this, order, wanted, made, library = &bench_.loader().library(),
                   folder = bench_.document().folder().toStdString()]() mutable {
        LoadResult loaded = library->load(*order.effect, folder);
        BakeResult result;
        if (!loaded.missing.empty()) {
            result.problem = loaded.missing.front();
        } else {
            order.assets = std::move(loaded.assets);
            BakeWriters writers;
            for (const Maker& make : wanted) {
                writers.push_back(make(order));
            }
            result = bake(order, writers, {[this](const std::string& what, float share) {
                              beside_.tell([this, what, share] { showProgress(what, share); });
                              return !beside_.isCancelled();
                          }});
        }
        beside_.tell([this, result, made, order] { receive(order, result, *made); });
    });
    showState();
}

void BakeSheet::showProgress(const std::string& what, float share) {
    progress_->setValue(int(share * 1000));
    QString text = QString::fromStdString(what);
    if (share > 0.02f) {
        const double passed_s = double(began_.elapsed()) / 1000;
        text += tr(", about %1 s left").arg(std::lround(passed_s * double((1 - share) / share)));
    }
    say(text);
}

void BakeSheet::receive(const BakeOrder& order, const BakeResult& result,
                        const std::shared_ptr<const SpriteSheet>& sheet) {
    const bool is_whole = !result.problem && !result.is_cancelled;
    if (result.problem) {
        came_of_it_ = tr("Stopped after %1 frames: %2")
                          .arg(result.frames)
                          .arg(QString::fromStdString(result.problem->text()));
    } else if (result.is_cancelled) {
        came_of_it_ = tr("Stopped after %1 frames. Bake again to go on where it was.").arg(result.frames);
    } else {
        came_of_it_ = tr("%1 frames are in %2")
                          .arg(result.frames)
                          .arg(QDir::toNativeSeparators(QString::fromStdString(order.folder.string())));
    }
    const bool can_be_laid =
        kind("particles")->isChecked() || kind("smoke")->isChecked() || kind("pieces")->isChecked();
    if (is_whole && can_be_laid) {
        baked_ = order.effect;
    }
    if (sheet) {
        came_of_it_ +=
            tr("\nThe sheet: %1 pictures of %2 x %3 px, %4 MB as textures; its end and its beginning "
               "differ by %5 %.")
                .arg(sheet->frames)
                .arg(sheet->cell_width)
                .arg(sheet->cell_height)
                .arg(double(sheet->bytes()) / (1 << 20), 0, 'f', 1)
                .arg(100 * sheet->seam, 0, 'f', 1);
        preview_->play(sheet, order.frames_per_s);
    }
    showState();
}

void BakeSheet::showState() {
    showRunning();
    lay_->setEnabled(baked_ != nullptr && !isRunning());
    alone_->setEnabled(kind("pictures")->isChecked() || kind("video")->isChecked());
    if (isRunning()) {
        return;
    }
    words_->setText(came_of_it_.isEmpty() ? tr("Runs the effect from its start and writes the frames of the "
                                               "span, all kinds at once. A bake "
                                               "that is stopped goes on when the same is baked again.")
                                          : came_of_it_);
}

} // namespace ember
