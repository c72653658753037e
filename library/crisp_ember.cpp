#include <crisp-ember/crisp_ember.h>

#include "core/assets/assets.h"
#include "core/budget/keeper.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/runtime/simulation.h"
#include "core/runtime/take.h"
#include "core/smoke/volume.h"

#include <algorithm>
#include <cmath>
#include <cstring>

using namespace ember;

struct ember_effect {
    EffectPtr effect;
    std::shared_ptr<const Assets> assets;
    std::string folder;
    std::shared_ptr<const Take> take = nullptr; // that runs repeat
};

struct ember_run {
    Simulation simulation;
    EffectPtr effect; // as it was set
    std::shared_ptr<const Take> take;
    std::shared_ptr<const Assets> assets;
    std::string folder;
    StepInputs inputs;
    Keeper keeper;
    std::string why;
    Frame frame; // of pieces, written when they are asked for
    bool has_frame = false;
    std::map<std::string, std::vector<ember_piece>> pieces;
    std::map<std::string, std::vector<ember_event>> events;
    std::map<std::string, std::shared_ptr<const Cut>> cuts;

    int refuse(std::string words) {
        why = std::move(words);
        return 0;
    }
    bool repeats() const { return take != nullptr && simulation.steps() < take->steps(); }
    /// Whether anything can be set; says why not.
    bool is_live() {
        return !repeats() || refuse("a take is being repeated: ember_go_live() ends that") == 1;
    }
    void forget_views() {
        has_frame = false;
        pieces.clear();
        events.clear();
    }
};

struct ember_snapshot {
    std::shared_ptr<const Simulation::Snapshot> state;
    EffectPtr effect;
};

namespace {

void say(const std::string& words, char* why, size_t bytes) {
    if (why != nullptr && bytes > 0) {
        const size_t count = std::min(words.size(), bytes - 1);
        std::memcpy(why, words.data(), count);
        why[count] = 0;
    }
}

std::string text_of(const Problems& problems) {
    std::string text;
    for (const Problem& problem : problems) {
        text += (text.empty() ? "" : "\n") + problem.text();
    }
    return text;
}

ember_effect* with_assets(EffectPtr effect, const std::string& folder, char* why, size_t bytes) {
    LoadResult loaded = AssetLibrary().load(*effect, folder);
    if (!loaded.missing.empty()) {
        say(text_of(loaded.missing), why, bytes);
        return nullptr;
    }
    return new ember_effect{std::move(effect), std::make_shared<const Assets>(std::move(loaded.assets)),
                            folder};
}

ember_effect* opened(ReadResult read, const std::string& folder, char* why, size_t bytes) {
    if (!read.is_sound()) {
        say(text_of(read.problems), why, bytes);
        return nullptr;
    }
    return with_assets(std::make_shared<const Effect>(std::move(*read.effect)), folder, why, bytes);
}

// The last of that name; the last of all without one.
const Take* named(const std::vector<Take>& takes, const char* name) {
    const auto is_it = [name](const Take& take) { return name == nullptr || take.name == name; };
    const auto found = std::find_if(takes.rbegin(), takes.rend(), is_it);
    return found == takes.rend() ? nullptr : &*found;
}

// Nothing that is thrown leaves the library.
template <class Result>
Result guarded(Result otherwise, char* why, size_t bytes, auto work) {
    try {
        return work();
    } catch (const std::exception& error) {
        say(std::string("not enough memory, or: ") + error.what(), why, bytes);
        return otherwise;
    }
}

void set_effect(ember_run& run, Effect changed) {
    run.effect = std::make_shared<const Effect>(std::move(changed));
    run.simulation.set_effect(run.effect, run.assets);
}

void step_once(ember_run& run) {
    if (run.repeats()) {
        run.simulation.step(inputs_of_step(*run.take, run.simulation));
        run.effect = run.simulation.effect();
    } else {
        run.simulation.step(run.inputs);
    }
    run.inputs.clicks = 0;
    run.inputs.keys.clear();
    run.forget_views();
}

void warm_up(ember_run& run) {
    while (run.simulation.is_warming_up()) {
        step_once(run);
    }
    run.forget_views();
}

const FrameDebris* debris_of(ember_run& run, const char* id) {
    if (!run.has_frame) {
        run.simulation.write_frame(run.frame);
        run.has_frame = true;
    }
    for (const FrameDebris& debris : run.frame.debris) {
        if (run.frame.effect->elements[debris.element].id == id) {
            return &debris;
        }
    }
    return nullptr;
}

void put(const Vec3& from, float* to) {
    to[0] = from.x;
    to[1] = from.y;
    to[2] = from.z;
}

const ParticlePool* pool_of(const ember_run* run, const char* id) {
    return id != nullptr ? run->simulation.find_pool(id) : nullptr;
}

} // namespace

int ember_version(void) {
    return EMBER_VERSION_MAJOR * 1000 + EMBER_VERSION_MINOR;
}

ember_effect* ember_open(const char* path, char* why, size_t why_bytes) {
    return guarded<ember_effect*>(nullptr, why, why_bytes, [&]() -> ember_effect* {
        const std::filesystem::path file = path != nullptr ? path : "";
        return opened(read_effect(file), file.parent_path().string(), why, why_bytes);
    });
}

ember_effect* ember_open_text(const char* text, size_t bytes, const char* folder, char* why,
                              size_t why_bytes) {
    return guarded<ember_effect*>(nullptr, why, why_bytes, [&]() -> ember_effect* {
        const std::string_view all = text != nullptr ? std::string_view(text, bytes) : std::string_view();
        return opened(parse_effect(all, "effect"), folder != nullptr ? folder : "", why, why_bytes);
    });
}

ember_effect* ember_open_take(const char* path, const char* name, char* why, size_t why_bytes) {
    return guarded<ember_effect*>(nullptr, why, why_bytes, [&]() -> ember_effect* {
        const std::filesystem::path file = path != nullptr ? path : "";
        ReadTakes read = read_takes(file);
        const Take* take = named(read.takes, name);
        if (take == nullptr) {
            say(read.problems.empty() ? file.string() + ": there is no such take" : text_of(read.problems),
                why, why_bytes);
            return nullptr;
        }
        // What was edited while it played may need more than what it began with.
        ember_effect* effect =
            with_assets(std::prev(take->effects.end())->second, file.parent_path().string(), why, why_bytes);
        if (effect != nullptr) {
            effect->effect = take->effect_at(0);
            effect->take = std::make_shared<const Take>(*take);
        }
        return effect;
    });
}

void ember_close(ember_effect* effect) {
    delete effect;
}

size_t ember_element_count(const ember_effect* effect) {
    return effect->effect->elements.size();
}

const char* ember_element_id(const ember_effect* effect, size_t index) {
    return index < effect->effect->elements.size() ? effect->effect->elements[index].id.c_str() : nullptr;
}

const char* ember_element_type(const ember_effect* effect, size_t index) {
    return index < effect->effect->elements.size() ? type_of(effect->effect->elements[index].body).key.data()
                                                   : nullptr;
}

ember_run* ember_start(const ember_effect* effect) {
    return guarded<ember_run*>(nullptr, nullptr, 0, [&] {
        auto run = std::make_unique<ember_run>();
        run->effect = effect->effect;
        run->assets = effect->assets;
        run->folder = effect->folder;
        run->take = effect->take;
        run->simulation.set_effect(run->effect, run->assets);
        warm_up(*run);
        return run.release();
    });
}

void ember_stop(ember_run* run) {
    delete run;
}

int ember_restart(ember_run* run, uint32_t seed) {
    return guarded(0, nullptr, 0, [&] {
        run->take.reset(); // it has its own seed
        Effect changed = with_seed(*run->effect, seed);
        // Cuts have the seed, too.
        LoadResult loaded = AssetLibrary().load(changed, run->folder);
        if (!loaded.missing.empty()) {
            return run->refuse(text_of(loaded.missing));
        }
        run->assets = std::make_shared<const Assets>(std::move(loaded.assets));
        set_effect(*run, std::move(changed));
        run->simulation.rewind();
        warm_up(*run);
        return 1;
    });
}

const char* ember_why(const ember_run* run) {
    return run->why.c_str();
}

namespace {

bool is_number(const Parameter& parameter) {
    return parameter.kind == ParameterKind::number || parameter.kind == ParameterKind::count ||
           parameter.kind == ParameterKind::toggle;
}

bool is_vector(const Parameter& parameter) {
    return parameter.kind == ParameterKind::vector;
}

// The parameter that was named, if it is of a kind.
const Parameter* named(const Effect& effect, const char* id, const char* key,
                       bool (*is_wanted)(const Parameter&), std::optional<Holder>& holder, std::string& why) {
    holder = find_holder(effect, id != nullptr ? id : "");
    const Parameter* parameter = holder ? holder->find(key != nullptr ? key : "") : nullptr;
    if (!holder) {
        why =
            std::string("\"") + (id != nullptr ? id : "") + "\" is no element, look, \"stage\" or \"budget\"";
        return nullptr;
    }
    if (parameter == nullptr || !is_wanted(*parameter)) {
        why = std::string("\"") + (key != nullptr ? key : "") + "\" is no " +
              (is_wanted == is_vector ? "vector" : "number, count or switch") + " of \"" + id + "\"";
        return nullptr;
    }
    return parameter;
}

} // namespace

int ember_set_number(ember_run* run, const char* id, const char* key, double number) {
    return guarded(0, nullptr, 0, [&] {
        std::optional<Holder> holder;
        const Parameter* parameter = named(*run->effect, id, key, is_number, holder, run->why);
        if (parameter == nullptr || !run->is_live()) {
            return 0;
        }
        const bool is_whole = parameter->kind != ParameterKind::number;
        if (!std::isfinite(number) || (is_whole && std::abs(number) > 2e9)) {
            return run->refuse("not a number that it can have: " + expectation_of(*parameter));
        }
        const Value value = parameter->kind == ParameterKind::toggle  ? Value(number != 0)
                            : parameter->kind == ParameterKind::count ? Value(int(std::lround(number)))
                                                                      : Value(float(number));
        if (refusal_of(*parameter, value)) {
            return run->refuse(std::to_string(number) + " found, expected " + expectation_of(*parameter));
        }
        set_effect(*run, with_value(*run->effect, id, *parameter, value));
        return 1;
    });
}

int ember_get_number(const ember_run* run, const char* id, const char* key, double* number) {
    std::optional<Holder> holder;
    std::string ignored;
    const Parameter* parameter = named(*run->effect, id, key, is_number, holder, ignored);
    if (parameter == nullptr) {
        return 0;
    }
    const Value value = parameter->get(holder->object);
    *number = parameter->kind == ParameterKind::toggle  ? double(std::get<bool>(value))
              : parameter->kind == ParameterKind::count ? double(std::get<int>(value))
                                                        : double(std::get<float>(value));
    return 1;
}

int ember_set_vector(ember_run* run, const char* id, const char* key, const float value[3]) {
    return guarded(0, nullptr, 0, [&] {
        std::optional<Holder> holder;
        const Parameter* parameter = named(*run->effect, id, key, is_vector, holder, run->why);
        if (parameter == nullptr || !run->is_live()) {
            return 0;
        }
        const Value wanted = Vec3{value[0], value[1], value[2]};
        if (refusal_of(*parameter, wanted)) {
            return run->refuse("no vector that it can be: " + expectation_of(*parameter));
        }
        set_effect(*run, with_value(*run->effect, id, *parameter, wanted));
        return 1;
    });
}

int ember_get_vector(const ember_run* run, const char* id, const char* key, float value[3]) {
    std::optional<Holder> holder;
    std::string ignored;
    const Parameter* parameter = named(*run->effect, id, key, is_vector, holder, ignored);
    if (parameter != nullptr) {
        put(std::get<Vec3>(parameter->get(holder->object)), value);
    }
    return parameter != nullptr;
}

int ember_set_muted(ember_run* run, const char* id, int muted) {
    return guarded(0, nullptr, 0, [&] {
        if (!run->is_live()) {
            return 0;
        }
        if (id == nullptr || find_element(*run->effect, id) == nullptr) {
            return run->refuse("there is no such element");
        }
        set_effect(*run, with_muted(*run->effect, id, muted != 0));
        return 1;
    });
}

void ember_point(ember_run* run, const float from[3], const float way[3]) {
    const float all[] = {from[0], from[1], from[2], way[0], way[1], way[2]};
    const Vec3 along = {way[0], way[1], way[2]};
    const bool is_line =
        std::all_of(std::begin(all), std::end(all), [](float each) { return std::isfinite(each); }) &&
        length(along) > 0;
    if (is_line) {
        run->inputs.pointer = PointerRay{{from[0], from[1], from[2]}, normalized(along)};
    } else {
        run->inputs.pointer.reset();
    }
}

void ember_point_nowhere(ember_run* run) {
    run->inputs.pointer.reset();
}

void ember_click(ember_run* run) {
    ++run->inputs.clicks;
}

int ember_press(ember_run* run, int key) {
    if (key < 0 || key > 9) {
        return run->refuse("keys are 0 to 9");
    }
    run->inputs.keys.push_back(key);
    return 1;
}

int ember_is_repeating(const ember_run* run) {
    return run->repeats();
}

void ember_go_live(ember_run* run) {
    run->take.reset();
}

void ember_step(ember_run* run) {
    step_once(*run);
}

double ember_time(const ember_run* run) {
    return run->simulation.time_s();
}

double ember_step_ms(const ember_run* run) {
    return run->simulation.meters().step_ms;
}

double ember_frame_took(ember_run* run, double frame_ms, double elapsed_s) {
    if (std::isfinite(frame_ms) && std::isfinite(elapsed_s) && frame_ms >= 0 && elapsed_s > 0) {
        run->inputs.gives = run->keeper.note(*run->effect, elapsed_s, frame_ms);
    }
    const auto most = *std::max_element(run->inputs.gives.begin(), run->inputs.gives.end());
    return double(most) / most_given;
}

size_t ember_particle_count(const ember_run* run, const char* id) {
    const ParticlePool* pool = pool_of(run, id);
    return pool != nullptr ? pool->live() : 0;
}

size_t ember_block_count(const ember_run* run, const char* id) {
    const ParticlePool* pool = pool_of(run, id);
    return pool != nullptr ? pool->blocks().size() : 0;
}

int ember_get_block(const ember_run* run, const char* id, size_t index, ember_block* block) {
    const ParticlePool* pool = pool_of(run, id);
    if (pool == nullptr || index >= pool->blocks().size()) {
        return 0;
    }
    const ParticleBlock& from = *pool->blocks()[index];
    *block = {size_t(from.count), from.x,        from.y,    from.z,     from.vx, from.vy, from.vz,
              from.age,           from.lifetime, from.size, from.number};
    return 1;
}

int ember_look_at(const ember_run* run, const char* id, float share, float* size, float light[3],
                  float* opacity) {
    const Effect& now = *run->simulation.effect_now();
    const Element* element = find_element(now, id != nullptr ? id : "");
    const auto* emitter = element != nullptr ? std::get_if<Emitter>(&element->body) : nullptr;
    const Look* look = emitter != nullptr ? find_look(now, emitter->look) : nullptr;
    if (look == nullptr || !std::isfinite(share)) {
        return 0;
    }
    const float at = std::clamp(share, 0.0f, 1.0f);
    const Colour colour = sampled(look->colour_over_life).at(at);
    const float glow = look->glow * sampled(look->glow_over_life).at(at);
    *size = sampled(look->size_over_life).at(at);
    put(Vec3{colour.red, colour.green, colour.blue} * glow, light);
    *opacity = colour.alpha * look->opacity * sampled(look->opacity_over_life).at(at);
    return 1;
}

int ember_get_pieces(ember_run* run, const char* id, const ember_piece** pieces, size_t* count) {
    return guarded(0, nullptr, 0, [&] {
        const FrameDebris* debris = id != nullptr ? debris_of(*run, id) : nullptr;
        if (debris == nullptr) {
            return run->refuse("there is no such breakable");
        }
        std::vector<ember_piece>& list = run->pieces[id];
        list.clear();
        for (const FramePiece& piece : debris->pieces) {
            ember_piece& out = list.emplace_back();
            put(piece.placement.position, out.place);
            const Quaternion turn = Quaternion::of(piece.placement.axes);
            put(turn.v, out.turn);
            out.turn[3] = turn.w;
            out.size = piece.size;
            out.opacity = piece.opacity;
            out.piece = piece.piece;
            out.number = piece.number;
        }
        *pieces = list.data();
        *count = list.size();
        return 1;
    });
}

int ember_get_piece_mesh(ember_run* run, const char* id, uint32_t piece, ember_mesh* mesh) {
    return guarded(0, nullptr, 0, [&] {
        const FrameDebris* debris = id != nullptr ? debris_of(*run, id) : nullptr;
        if (debris == nullptr || piece >= debris->cut->pieces.size()) {
            return run->refuse("there is no such piece");
        }
        run->cuts[id] = debris->cut; // held until it is asked for again
        const Piece& from = debris->cut->pieces[piece];
        static_assert(sizeof(Vec3) == 3 * sizeof(float) &&
                      sizeof(from.mesh.triangles[0]) == 3 * sizeof(uint32_t));
        *mesh = {from.mesh.corners.size(),
                 from.mesh.triangles.size(),
                 from.outer,
                 &from.mesh.corners.front().x,
                 from.mesh.normals.empty() ? nullptr : &from.mesh.normals.front().x,
                 from.mesh.triangles.front().data()};
        return 1;
    });
}

int ember_get_smoke(const ember_run* run, const char* id, ember_smoke* smoke) {
    const SmokeVolume* volume = id != nullptr ? run->simulation.find_smoke(id) : nullptr;
    if (volume == nullptr) {
        return 0;
    }
    const SmokeSize& size = volume->size();
    using Cell = std::remove_cvref_t<decltype(volume->cells()[0])>;
    static_assert(offsetof(Cell, heat) == offsetof(Cell, density) + sizeof(float));
    *smoke = {size.x,
              size.y,
              size.z,
              int(size.packed_row()),
              size.y + 2,
              size.cell,
              {size.low.x, size.low.y, size.low.z},
              sizeof(Cell),
              reinterpret_cast<const unsigned char*>(&volume->cells()[size.packed(0, 0, 0)].density)};
    return 1;
}

int ember_get_events(ember_run* run, const char* id, const ember_event** events, size_t* count) {
    return guarded(0, nullptr, 0, [&] {
        const Element* element = find_element(*run->effect, id != nullptr ? id : "");
        if (element == nullptr || !std::holds_alternative<Breakable>(element->body)) {
            return run->refuse("there is no such breakable");
        }
        std::vector<ember_event>& list = run->events[id];
        list.clear();
        const auto& all = run->simulation.events_of_pieces();
        if (const auto found = all.find(id); found != all.end()) {
            const std::pair<int, const std::vector<PieceEvent>&> kinds[] = {
                {EMBER_BROKE, found->second.broken},
                {EMBER_HIT, found->second.hits},
                {EMBER_CAME_TO_REST, found->second.rests}};
            for (const auto& [kind, of_kind] : kinds) {
                for (const PieceEvent& event : of_kind) {
                    ember_event& out = list.emplace_back();
                    out.kind = kind;
                    put(event.place, out.place);
                    put(event.velocity, out.velocity);
                    out.strength = event.strength;
                }
            }
        }
        *events = list.data();
        *count = list.size();
        return 1;
    });
}

ember_snapshot* ember_take_snapshot(const ember_run* run) {
    return guarded<ember_snapshot*>(nullptr, nullptr, 0, [&] {
        return new ember_snapshot{run->simulation.snapshot(), run->effect};
    });
}

void ember_restore(ember_run* run, const ember_snapshot* snapshot) {
    run->simulation.restore(*snapshot->state);
    run->effect = snapshot->effect;
    run->forget_views();
}

void ember_free_snapshot(ember_snapshot* snapshot) {
    delete snapshot;
}
