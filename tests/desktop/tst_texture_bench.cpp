// The texture bench, used with real mouse and keys.
#include "window_driver.h"

#include "desktop/controls/number_field.h"
#include "desktop/detail/detail_panel.h"
#include "desktop/detail/parameter_row.h"
#include "desktop/textures/texture_bench.h"

#include <QComboBox>
#include <QFileDialog>
#include <QLabel>
#include <QListWidget>
#include <QMenu>
#include <QTemporaryDir>
#include <QToolButton>

using namespace ember;

class TestTextureBench : public QObject {
    Q_OBJECT

    std::unique_ptr<QTemporaryDir> folder_;
    std::unique_ptr<MainWindow> window_;

    const Effect& effect() { return *window_->workbench().document().effect(); }
    TextureBench& bench() { return *window_->textureBench(); }

    QToolButton* button(const QString& text) {
        for (QToolButton* each : bench().findChildren<QToolButton*>()) {
            if (each->text() == text) {
                return each;
            }
        }
        return nullptr;
    }
    void open() {
        window_->activateWindow();
        QTest::keyClick(window_.get(), Qt::Key_T);
        QVERIFY(window_->textureBench() != nullptr && bench().isVisible());
    }
    void add(const QString& kind) {
        driver::choose_in_menu(kind);
        QTest::mouseClick(button("+ texture"), Qt::LeftButton);
    }

  private slots:
    void init() {
        folder_ = std::make_unique<QTemporaryDir>();
        window_ = driver::shown_window(folder_->filePath("unsaved"));
        QVERIFY(window_ != nullptr);
    }
    void cleanup() {
        window_->workbench().document().reset(*window_->workbench().document().effect(), {}, {});
        window_.reset();
    }

    void a_texture_is_made_changed_and_undone() {
        open();
        QVERIFY(effect().textures.empty());
        add("cells");
        QTRY_COMPARE(effect().textures.size(), size_t(1));
        QCOMPARE(bench().chosen(), effect().textures[0].id);
        const QImage before = bench().view()->shown();
        QVERIFY(!before.isNull());
        QApplication::processEvents();
        auto* field = bench().detail()->row(bench().chosen(), "count")->findChild<NumberField*>();
        field->setFocus();
        field->selectAll();
        QTest::keyClicks(field, "11");
        QTest::keyClick(field, Qt::Key_Return);
        QCOMPARE(effect().textures[0].count, 11);
        QVERIFY(bench().view()->shown() != before);
        bench().activateWindow();
        bench().findChild<QListWidget*>()->setFocus();
        QTest::keyClick(bench().findChild<QListWidget*>(), Qt::Key_Z, Qt::ControlModifier);
        QCOMPARE(effect().textures[0].count, Texture().count);
        QCOMPARE(bench().view()->shown(), before);
        QTest::keyClick(bench().findChild<QListWidget*>(), Qt::Key_Z, Qt::ControlModifier);
        QVERIFY(effect().textures.empty());
    }

    void textures_are_chosen_in_the_list_and_deleted() {
        open();
        add("dots");
        QTRY_COMPARE(effect().textures.size(), size_t(1));
        add("noise");
        QTRY_COMPARE(effect().textures.size(), size_t(2));
        auto* list = bench().findChild<QListWidget*>();
        QCOMPARE(list->count(), 2);
        QTest::mouseClick(list->viewport(), Qt::LeftButton, {}, list->visualItemRect(list->item(0)).center());
        QCOMPARE(bench().chosen(), std::string("dots"));
        QTest::mouseClick(button("Delete"), Qt::LeftButton);
        QCOMPARE(effect().textures.size(), size_t(1));
        QCOMPARE(bench().chosen(), std::string("noise"));
    }

    void a_texture_is_saved_at_the_chosen_size_and_depth() {
        open();
        add("grid");
        QTRY_COMPARE(effect().textures.size(), size_t(1));
        const QString path = folder_->filePath("grid.png");
        for (const auto& [side, depth, bits] : {std::tuple(0, 0, 32), {2, 1, 64}}) {
            for (QComboBox* box : bench().findChildren<QComboBox*>()) {
                if (box->accessibleName() == "Size") {
                    box->setCurrentIndex(side);
                } else if (box->accessibleName() == "Depth") {
                    box->setCurrentIndex(depth);
                }
            }
            driver::when_open<QFileDialog>([path](QFileDialog* dialog) {
                dialog->findChild<QLineEdit*>()->setText(path);
                QMetaObject::invokeMethod(dialog, "accept");
            });
            QFile::remove(path);
            QTest::mouseClick(button("Save as PNG..."), Qt::LeftButton);
            const QImage saved(path);
            QCOMPARE(saved.width(), 64 << side);
            QCOMPARE(saved.depth(), bits);
        }
    }

    void a_layer_s_row_opens_its_texture() {
        Effect given = effect();
        given.looks[0].drawn_as = Drawing::cards;
        given.textures = {{.id = "dots", .name = "Dots", .kind = TextureKind::dots},
                          {.id = "mist", .name = "Mist", .kind = TextureKind::noise}};
        given.looks[0].layers[0].from = LayerFrom::texture;
        given.looks[0].layers[0].texture = "mist";
        window_->workbench().document().apply(given, "test", {});
        window_->select(given.elements[0].id);
        QApplication::processEvents();
        ParameterRow* row = window_->detail()->row(given.looks[0].id, "layer1_texture");
        QVERIFY(row != nullptr);
        for (QToolButton* each : row->findChildren<QToolButton*>()) {
            if (each->text() == "bench") {
                QTest::mouseClick(each, Qt::LeftButton);
            }
        }
        QVERIFY(window_->textureBench() != nullptr && bench().isVisible());
        QCOMPARE(bench().chosen(), std::string("mist"));
    }
};

QTEST_MAIN(TestTextureBench)
#include "tst_texture_bench.moc"
