// Writing the effect's frames for other programs: what, which seconds, where to; and how a sheet of pictures
// plays.
#pragma once

#include "core/bake/bake.h"
#include "desktop/dialogs/measuring_sheet.h"
#include "render/sprite_sheet.h"

#include <QElapsedTimer>
#include <QTimer>

#include <functional>
#include <memory>

class QCheckBox;
class QComboBox;
class QLineEdit;

namespace ember {

/// Plays a sheet as a game does, beside its single pictures.
class SheetPreview : public QWidget {
    Q_OBJECT

  public:
    explicit SheetPreview(QWidget* parent = nullptr);
    void play(std::shared_ptr<const SpriteSheet> sheet, double frames_per_s);
    /// What is shown now.
    const QImage& image() const { return image_; }

  protected:
    void paintEvent(QPaintEvent* event) override;

  private:
    void next();

    std::shared_ptr<const SpriteSheet> sheet_;
    double frames_per_s_ = 30, frame_ = 0;
    QTimer timer_;
    QImage image_;
};

class BakeSheet : public MeasuringSheet {
    Q_OBJECT

  public:
    /// See MeasuringSheet.
    BakeSheet(Workbench& bench, const Camera& camera, QSize pixels, const Span& span, QWidget* parent);
    ~BakeSheet() override;

    NumberField* rateField() const { return rate_; }
    QLineEdit* folderField() const { return folder_; }
    QCheckBox* kind(const QString& key) const;
    QComboBox* runs() const { return runs_; }
    QComboBox* pictures() const { return pictures_; }
    QComboBox* videos() const { return videos_; }
    QComboBox* sheets() const { return sheets_; }
    NumberField* widthField() const { return width_; }
    NumberField* heightField() const { return height_; }
    QCheckBox* aloneBox() const { return alone_; }
    QCheckBox* replaceBox() const { return replace_; }
    SheetPreview* preview() const { return preview_; }
    /// Plays what was baked on the time axis, beside what is live.
    QPushButton* layButton() const { return lay_; }

  private:
    struct Kind {
        QString key;
        QCheckBox* box;
    };
    void addKind(const QString& key, const QString& words, const QString& help, bool is_there);
    using Maker = std::function<std::unique_ptr<BakeWriter>(const BakeOrder&)>;
    using MadeSheet = std::shared_ptr<std::shared_ptr<const SpriteSheet>>;
    std::vector<Maker> makers(const BakeOrder& order, const MadeSheet& made);
    void say(const QString& text);
    void begin() override;
    void showProgress(const std::string& what, float share);
    void receive(const BakeOrder& order, const BakeResult& result,
                 const std::shared_ptr<const SpriteSheet>& sheet);
    void showState() override;
    void browse();

    NumberField* rate_;
    QLineEdit* folder_;
    std::vector<Kind> kinds_;
    QComboBox* runs_; // the effect now, or a take
    QComboBox* pictures_;
    QComboBox* videos_;
    QComboBox* sheets_;
    NumberField* width_;
    NumberField* height_;
    QCheckBox* alone_;
    QCheckBox* replace_;
    SheetPreview* preview_;
    QPushButton* lay_;
    EffectPtr baked_; // whose particles are in the folder now; null: nobody's
    std::vector<Take> takes_;
    QString came_of_it_; // the last bake, in words
    QElapsedTimer began_;
};

} // namespace ember
