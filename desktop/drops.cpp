#include "desktop/drops.h"

#include "core/effect/edit.h"
#include "core/effect/parameter.h"

#include <QCoreApplication>
#include <QFileInfo>

namespace ember {

namespace {

QString words(const char* text) {
    return QCoreApplication::translate("Drops", text);
}

struct Setting {
    const char* parameter;
    Value value;
};

// A new element of a type with its file, and with what makes it read that.
DropChoice element_with(const char* text, const char* type, const char* file_parameter,
                        std::vector<Setting> settings) {
    return {words(text), [=, settings = std::move(settings)](const Effect& effect, const std::string& file,
                                                             std::string& id) {
                Effect edited = with_new_element(effect, *find_type(type), id);
                const auto set = [&](const char* key, const Value& value) {
                    const Holder holder = *find_holder(edited, id);
                    edited = with_value(edited, id, *holder.find(key), value);
                };
                for (const Setting& setting : settings) {
                    set(setting.parameter, setting.value);
                }
                set(file_parameter, file);
                return edited;
            }};
}

DropChoice background() {
    return {words("The background"), [](const Effect& effect, const std::string& file, std::string& id) {
                Effect edited = effect;
                edited.stage.background = Background::image;
                edited.stage.background_image = file;
                id = std::string(stage_id);
                return edited;
            }};
}

} // namespace

std::vector<DropChoice> drop_choices(const QString& path) {
    const QString ending = QFileInfo(path).suffix().toLower();
    std::vector<DropChoice> choices;
    if (QStringList{"obj", "ply", "stl", "gltf", "glb", "off"}.contains(ending)) {
        choices.push_back(
            element_with("An emitter on its surface", "emitter", "mesh", {{"shape", int(BirthShape::mesh)}}));
        choices.push_back(element_with("Something to hit", "mesh", "mesh", {}));
        choices.push_back(
            element_with("Something that breaks", "breakable", "mesh", {{"shape", int(BreakShape::mesh)}}));
    }
    if (ending == "ply") {
        choices.push_back(
            element_with("A clip of particles", "emitter", "clip", {{"shape", int(BirthShape::clip)}}));
    }
    if (ending == "glb" || ending == "gltf") {
        choices.push_back(element_with("A clip of pieces", "breakable", "clip", {}));
    }
    if (ending == "png" || ending == "exr") {
        choices.push_back(background());
    }
    if (ending == "png") {
        choices.push_back(
            element_with("Uneven ground", "height-map", "image", {{"from", int(HeightsFrom::image)}}));
    }
    if (ending == "vdb") {
        choices.push_back(element_with("A flow", "grid-flow", "file", {{"grid", int(FlowGrid::file)}}));
        choices.push_back(element_with("A clip of smoke", "smoke", "clip", {}));
    }
    if (ending == "csv") {
        choices.push_back(element_with("A mover along its keys", "keyed", "file", {}));
    }
    return choices;
}

} // namespace ember
