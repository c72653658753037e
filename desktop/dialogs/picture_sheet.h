// What a saved picture shall be: size, frame shape, with or without the stage, format and place, on one
// sheet.
#pragma once

#include "core/effect/effect.h"
#include "render/still.h"

#include <QDialog>

class QComboBox;
class QLabel;
class QLineEdit;
class QPushButton;

namespace ember {

class NumberField;
class PictureChoice;

class PictureSheet : public QDialog {
    Q_OBJECT

  public:
    /// `shown`: the picture in the window (pixels). `path`: suggested.
    PictureSheet(const Stage& stage, QSize shown, const QString& path, QWidget* parent);

    StillOptions options() const;
    /// With the ending of the format.
    QString path() const;

    NumberField* widthField() const { return width_; }
    NumberField* heightField() const { return height_; }
    QLineEdit* pathField() const { return path_; }
    PictureChoice* shapes() const { return shapes_; }
    QComboBox* sizes() const { return sizes_; }
    QComboBox* kinds() const { return kinds_; }

  private:
    double ratio() const; // width by height
    void fillSizes();
    void takeSize();
    void typed(bool is_width);
    void browse();
    void check();

    Stage stage_;
    QSize shown_;
    PictureChoice* shapes_;
    QComboBox* sizes_;
    NumberField* width_;
    NumberField* height_;
    QComboBox* kinds_;
    QLineEdit* path_;
    QLabel* facts_;
    QPushButton* save_;
};

} // namespace ember
