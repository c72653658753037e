// The effect: the whole document as one value. An edit makes a new one (edit.h), undo is the old pointer.
#pragma once

#include "core/effect/element.h"
#include "core/effect/look.h"

#include <cstdint>
#include <memory>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ember {

enum class Background { sky, ramp, image };
enum class FrameShape { free, wide, cinema, square, upright, own };

/// Light, background, camera and finishing.
struct Stage {
    float sun_azimuth = 40;
    float sun_height = 35;
    Colour sun_colour = {1, 0.86f, 0.68f, 1};
    float sun_strength = 3;
    Colour sky_top = {0.012f, 0.022f, 0.034f, 1};
    Colour sky_horizon = {0.06f, 0.085f, 0.1f, 1};
    float sky_strength = 1;
    float mist = 0.02f;
    Background background = Background::sky;
    Ramp background_ramp = {
        {{0, {0.01f, 0.01f, 0.012f, 1}}, {0.5f, {0.12f, 0.1f, 0.09f, 1}}, {1, {0.01f, 0.02f, 0.05f, 1}}}};
    std::string background_image; // file
    float background_turn = 0;
    bool background_lights = false;
    float background_strength = 1;
    float stars = 0;

    float warm_up = 0;
    float length = 0; // s; 0: for ever

    Vec3 camera_target = {0, 1, 0};
    float camera_distance = 7;
    float camera_azimuth = 20;
    float camera_height = 12;
    float field_of_view = 40;
    FrameShape frame_shape = FrameShape::free;
    float frame_ratio = 1.5f; // width by height, of a shape of its own
    float shutter = 0;        // s
    float aperture = 0;       // mm, diameter
    Vec3 focus = {0, 1, 0};   // m, a point that is sharp

    float exposure = 0;
    float bloom = 0.35f;
    float bloom_threshold = 1;
    float bloom_radius = 0.5f;
    float contrast = 1;
    float glare = 0;
    int glare_rays = 4;
    float glare_angle = 20;
    float glare_length = 0.4f;
    Curve grade_red = {{{0, 0}, {1, 1}}};
    Curve grade_green = {{{0, 0}, {1, 1}}};
    Curve grade_blue = {{{0, 0}, {1, 1}}};
    float vignette = 0;
    float grain = 0;
    float copies_shown = 1; // while one works
    std::string unknown;
    bool operator==(const Stage&) const = default;
};

/// Width by height of the frame that the effect is made for; nothing if it has none.
std::optional<float> frame_ratio_of(const Stage& stage);

/// What can be done with less near the frame limit.
enum class GiveWay { births, copies, smoke, picture, cleanup, pieces, far, cells };
constexpr size_t give_ways = 8;

/// How an effect gives way: in turns, 1 first, those of one turn together, 0 never; down to what stays at
/// least.
struct WaysToGive {
    bool keeper = false;
    int births_turn = 4, copies_turn = 1, smoke_turn = 2, picture_turn = 3, cleanup_turn = 5, pieces_turn = 6;
    int far_turn = 0, cells_turn = 3;
    float births_least = 0.25f, copies_least = 0, smoke_least = 0.25f, picture_least = 0.6f,
          cleanup_least = 0.2f, pieces_least = 0.25f, far_least = 0.25f, cells_least = 0.5f;
    float far_from = 10; // m from the camera
    bool operator==(const WaysToGive&) const = default;
};
int turn_of(const WaysToGive& ways, GiveWay way);
float least_of(const WaysToGive& ways, GiveWay way);

/// Limits that the artist works against.
struct Budget : WaysToGive {
    float frame_ms = 1000.0f / 60.0f;
    int particles = 60000;
    float memory_mb = 256;
    int pieces = 1000;
    int awake_pieces = 400;
    int smoke_cells = 500000;
    float linger_s = 20;
    std::string unknown;
    bool operator==(const Budget&) const = default;
};

/// A modulator sets a number of a parameter: at 0 to `low`, at 1 to `high`.
struct Drive {
    std::string holder;    // id of an element or look, or the stage
    std::string parameter; // key
    int part = 0;          // of a range: 0 low, 1 high; of a vector: x, y, z
    std::string modulator; // id
    float low = 0, high = 1;
    std::string unknown;
    bool operator==(const Drive&) const = default;
};

/// A parameter keyed over time, by a curve for each of its parts (track.h); times of the artist's clock, in
/// s. For choices, toggles and counts a point's value is the index, 0 or 1, or the number.
struct Track {
    std::string holder;    // id of an element or look, or the stage
    std::string parameter; // key
    std::vector<Curve> curves;
    std::string unknown;
    bool operator==(const Track&) const = default;
};

/// What the artist wants to remember about a parameter.
struct Note {
    std::string holder;    // id of an element or look, the stage or the budget
    std::string parameter; // key
    std::string text;
    std::string unknown;
    bool operator==(const Note&) const = default;
};

struct Effect {
    std::string name = "Untitled";
    uint32_t seed = 1;
    std::vector<Element> elements; // in the order of the board
    std::vector<Look> looks;
    std::vector<Texture> textures;
    std::vector<Drive> drives; // at most one for each number
    std::vector<Track> tracks; // at most one for each parameter
    std::vector<Note> notes;   // the same
    Stage stage;
    Budget budget;
    std::string unknown;

    // As they would be by themselves, in one file: see ElementBody.
    Effect();
    Effect(const Effect& other);
    Effect(Effect&& other) noexcept;
    Effect& operator=(const Effect& other);
    Effect& operator=(Effect&& other) noexcept;
    ~Effect();
    bool operator==(const Effect& other) const;
};

using EffectPtr = std::shared_ptr<const Effect>;

/// Whole-document limits, checked before anything is allocated.
constexpr size_t most_elements = 256;
constexpr size_t most_drives = 1024;
constexpr size_t most_tracks = 1024;
constexpr size_t most_notes = 1024;

/// Of names, groups and notes, in bytes.
constexpr size_t longest_text = 200;

/// The element, look or texture with this id, or nullptr.
const Element* find_element(const Effect& effect, std::string_view id);
const Look* find_look(const Effect& effect, std::string_view id);
const Texture* find_texture(const Effect& effect, std::string_view id);

/// What is remembered about a parameter, or nullptr.
const Note* find_note(const Effect& effect, std::string_view holder, std::string_view parameter);

/// The weight of the link from an influence to a source; nothing where they are not linked.
const Link* find_link(const Element& influence, std::string_view source_id);

/// Whether an element can do what a trigger tells it.
bool can_do(const Element& element, TriggerThen then);

/// What influences can be linked to: sources, and volumes of smoke.
bool takes_links(const ElementBody& source);

/// Why an influence cannot act on a source at all, as the end of a sentence; nullptr if it can.
const char* link_refusal(const Element& influence, const Element& source);
bool can_link(const Element& influence, const Element& source);

Family family_of(const ElementBody& body);

/// The element's place or reach, or nullptr if it has none.
const Place* place_of(const ElementBody& body);
/// What an element that plays a clip plays, or nullptr: a source of that shape, a volume of smoke, a
/// breakable.
const ClipPlay* clip_of(const ElementBody& body);
const Reach* reach_of(const ElementBody& body);
/// The path of what may have one, or nullptr.
const PathShape* path_of(const ElementBody& body);
/// The surface of a solid collider, or nullptr.
const Surface* surface_of(const ElementBody& body);

/// The ids that an element leads back to itself by, riding on one another or being born of one another:
/// "a, b, a". Nothing if it does not.
std::optional<std::string> circle_of(const Effect& effect, const Element& element);

/// True for sources, volumes of smoke and influences.
bool can_be_soloed(const Element& element);

/// False if the element is muted, or if others of its side of the board (what takes links, what has them)
/// are soloed and it is not.
bool is_active(const Effect& effect, const Element& element);

/// What an element needs and has not, so that it does nothing: "a mesh"; nothing if it lacks nothing.
std::optional<std::string> lack_of(const Element& element);

/// Why the whole cannot be: too large (elements, capacity) and what it would need, or elements that ride on
/// themselves. Nothing if all is well.
std::optional<std::string> whole_refusal(const Effect& effect);

/// An effect with ground, gravity and one emitter: what "new" gives.
Effect starter_effect();

} // namespace ember
