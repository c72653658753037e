// The Saltworks in tests: every demo effect, with its files, and somebody who plays with it.
#pragma once

#include "core/assets/assets.h"
#include "core/effect/effect_file.h"
#include "core/scene/inputs.h"

#include <QDir>
#include <QtTest>

#include <cmath>

namespace ember::sample {

inline const QString demo_folder = QStringLiteral(EMBER_SOURCE_DIR "/demo/saltworks");

/// A row for each demo, with its file's name as "name".
inline void add_demo_rows() {
    QTest::addColumn<QString>("name");
    for (const QString& name : QDir(demo_folder).entryList({"*.ember.json"})) {
        QTest::newRow(qPrintable(name.section('.', 0, 0))) << name;
    }
}

inline ReadResult read_demo(const QString& name) {
    return read_effect((demo_folder + "/" + name).toStdString());
}

inline Effect demo_effect(const QString& name) {
    return *read_demo(name).effect;
}

inline Assets demo_assets(const Effect& effect) {
    return AssetLibrary().load(effect, demo_folder.toStdString()).assets;
}

/// What people do, the same in each step of the same number: the pointer goes round, clicks and keys come.
inline StepInputs people_at(uint64_t step) {
    StepInputs inputs;
    const float turn = float(step) * 0.03f;
    if (step % 400 < 300) {
        inputs.pointer = {{std::cos(turn) * 0.5f, 1, 4}, {0, std::sin(turn) * 0.1f, -1}};
    }
    inputs.clicks = step % 97 == 0 ? 1 : 0;
    if (step % 143 == 0) {
        inputs.keys.push_back(1);
    }
    return inputs;
}

} // namespace ember::sample
