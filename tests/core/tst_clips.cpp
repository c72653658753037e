// Baked particles, played again: where they were, when they should, and what others make of them.
#include "core/assets/clip.h"
#include "core/assets/piece_clip.h"
#include "core/bake/bake.h"
#include "core/smoke/volume.h"
#include "sample_effects.h"
#include "state_bytes.h"

#include <QTemporaryDir>
#include <QtTest>

#include <cmath>

using namespace ember;
using namespace ember::sample;

namespace {

// Sparks that fly and die, two sources of them.
Effect sparks_effect() {
    Emitter sparks = still(60, 0.5f);
    sparks.shape = BirthShape::ball;
    sparks.speed = {1, 3};
    sparks.birth_colours.stops = {{0, {1, 0.25f, 0.0625f, 1}}, {1, {0.25f, 0.5f, 1, 1}}};
    Effect effect = effect_of(sparks, {Gravity{}});
    Emitter others = still(20, 0.4f);
    others.position = {2, 0, 0};
    effect.elements.push_back({.id = "others", .name = "Others", .body = others});
    return effect;
}

// Warm gas that rises, beside gas of another volume.
Effect smoking_effect() {
    Effect effect;
    for (const char* id : {"left", "right"}) {
        Smoke smoke;
        smoke.position = {id[0] == 'l' ? -2.0f : 2.0f, 0.5f, 0.25f};
        smoke.size = {1, 1, 1};
        smoke.resolution = 16;
        effect.elements.push_back({.id = id, .name = id, .body = smoke});
        SmokeSource source;
        source.position = smoke.position;
        source.density = id[0] == 'l' ? 3.0f : 9.0f;
        effect.elements.push_back({.id = std::string(id) + "-source", .name = id, .body = source});
    }
    return effect;
}

// Two blocks that break on the ground.
Effect breaking_effect() {
    Effect effect;
    for (const char* id : {"left", "right"}) {
        Breakable block;
        block.position = {id[0] == 'l' ? -2.0f : 2.0f, 0.7f, 0};
        block.stands = false;
        block.pieces = id[0] == 'l' ? 6 : 9;
        block.strength = 1;
        effect.elements.push_back({.id = id, .name = id, .body = block});
        Dropper dropper;
        dropper.position = block.position;
        dropper.drops = id;
        dropper.first = 0.1f;
        dropper.every = 0;
        effect.elements.push_back({.id = std::string(id) + "-dropper", .name = id, .body = dropper});
    }
    const std::vector<Link> both = {{"left", 1}, {"right", 1}};
    effect.elements.push_back(
        {.id = "fall", .name = "Fall", .body = Gravity{.strength = 9.81f}, .links = both});
    effect.elements.push_back({.id = "ground", .name = "Ground", .body = Plane{}, .links = both});
    return effect;
}

std::vector<FramePiece> pieces_of(const Simulation& simulation, const std::string& id) {
    Frame frame;
    simulation.write_frame(frame);
    for (const FrameDebris& debris : frame.debris) {
        if (frame.effect->elements[debris.element].id == id) {
            return debris.pieces;
        }
    }
    return {};
}

float density_of(const Simulation& simulation, const char* id, int x, int y, int z) {
    const SmokeVolume& volume = *simulation.find_smoke(id);
    return volume.cells()[volume.size().packed(x, y, z)].density;
}

} // namespace

class TestClips : public QObject {
    Q_OBJECT

    QTemporaryDir folder_;

    // An effect whose only source plays what initTestCase() has baked: 1 s, 60 frames.
    Effect playing(const std::function<void(Emitter&)>& change = {}) const {
        Emitter clip = still(0, 1);
        clip.shape = BirthShape::clip;
        clip.clip = "baked/particles/00000.ply";
        clip.clip_source = 1;
        if (change) {
            change(clip);
        }
        Effect effect = effect_of(clip);
        return effect;
    }
    Simulation started(const Effect& effect) const {
        LoadResult loaded = AssetLibrary().load(effect, folder_.path().toStdString());
        Simulation simulation;
        simulation.set_effect(shared(effect), loaded.assets);
        return simulation;
    }
    Simulation after(const Effect& effect, int steps) const {
        Simulation simulation = started(effect);
        for (int i = 0; i < steps; ++i) {
            simulation.step();
        }
        return simulation;
    }
    // The same for a volume of smoke, where the first of the two was.
    Effect smoke_playing(const std::function<void(Smoke&)>& change = {}) const {
        Effect effect = smoking_effect();
        Smoke clip = std::get<Smoke>(effect.elements[0].body);
        clip.clip = "baked/smoke/00000.vdb";
        if (change) {
            change(clip);
        }
        effect.elements = {{.id = "left", .name = "Left", .body = clip}};
        return effect;
    }
    // And for a breakable.
    Effect pieces_playing(int body, const std::function<void(Breakable&)>& change = {}) const {
        Breakable clip;
        clip.position = {};
        clip.clip = "broken/pieces.glb";
        clip.clip_body = body;
        if (change) {
            change(clip);
        }
        Effect effect;
        effect.elements = {{.id = "clip", .name = "Clip", .body = clip}};
        return effect;
    }
    double smoke_at(const std::function<void(Smoke&)>& change, double at_s) const {
        return after(smoke_playing(change), int(std::lround(at_s * 60))).find_smoke("left")->mass();
    }
    static std::optional<std::vector<ClipParticle>> parsed(const std::string& bytes, Problems& problems) {
        return parse_clip_frame(bytes, "it.ply", problems);
    }

  private slots:
    void initTestCase() {
        BakeOrder order;
        order.effect = shared(sparks_effect());
        order.span = {0, 1};
        order.folder = folder_.filePath("baked").toStdString();
        BakeWriters writers;
        writers.push_back(particle_files(order));
        QVERIFY(!bake(order, writers).problem);
        order.effect = shared(smoking_effect());
        order.folder = folder_.filePath("smoked").toStdString();
        BakeWriters smoke;
        smoke.push_back(smoke_files(order));
        QVERIFY(!bake(order, smoke).problem);
        QVERIFY(QDir(folder_.path()).rename("smoked/smoke", "baked/smoke"));
        order.effect = shared(breaking_effect());
        order.assets = AssetLibrary().load(*order.effect, ".").assets;
        order.folder = folder_.filePath("broken").toStdString();
        BakeWriters pieces;
        pieces.push_back(piece_file(order));
        QVERIFY(!bake(order, pieces).problem);
    }

    void particles_are_where_they_were() {
        Simulation truth;
        truth.set_effect(shared(sparks_effect()));
        Simulation clip = started(playing());
        for (int step = 1; step < 60; ++step) {
            truth.step();
            clip.step();
            const auto expected = particles(truth), shown = particles(clip);
            QCOMPARE(shown.size(), expected.size());
            for (size_t i = 0; i < shown.size(); ++i) {
                QCOMPARE(shown[i].number, expected[i].number);
                QVERIFY(length(shown[i].position - expected[i].position) < 1e-5f);
                QVERIFY(std::abs(shown[i].age - expected[i].age) < 1e-5f);
                QVERIFY(std::abs(shown[i].size - expected[i].size) < 1e-6f);
            }
        }
        QVERIFY(particles(truth).size() > 20);
        // And look alike: their own tints are those that they were born with.
        const auto &a = truth.find_pool("e")->blocks(), &b = clip.find_pool("e")->blocks();
        for (int i = 0; i < a[0]->count; ++i) {
            QCOMPARE(b[0]->mark[i].bits, a[0]->mark[i].bits);
        }
    }

    void starts_trims_speeds_and_ends_as_it_is_set() {
        const auto count = [&](const std::function<void(Emitter&)>& change, double at_s) {
            return particles(after(playing(change), int(std::lround(at_s * 60)))).size();
        };
        const size_t at_half = count({}, 0.5);
        QVERIFY(at_half > 10);
        // Later.
        const auto late = [](Emitter& e) { e.clip_start = 2; };
        QCOMPARE(count(late, 1.9), size_t(0));
        QCOMPARE(count(late, 2.5), at_half);
        // From the middle on.
        const auto trimmed = [](Emitter& e) {
            e.clip_from = 0.5f;
            e.clip_to = 0.75f;
        };
        QCOMPARE(count(trimmed, 1 / 60.0), count({}, 0.5 + 1 / 60.0));
        QCOMPARE(count(trimmed, 0.3), size_t(0));
        // Half as fast: what was at 0.25 s.
        const auto slow = [](Emitter& e) { e.clip_speed = 0.5f; };
        QCOMPARE(count(slow, 0.5), count({}, 0.25));
        // Behind its end.
        const size_t last = count({}, 59 / 60.0);
        QVERIFY(last > 0);
        QCOMPARE(count({}, 1.5), size_t(0));
        QCOMPARE(count([](Emitter& e) { e.clip_end = ClipEnd::held; }, 9.0), last);
        QCOMPARE(count([](Emitter& e) { e.clip_end = ClipEnd::again; }, 7.5), at_half);
        QCOMPARE(count([](Emitter& e) { e.capacity = 5; }, 0.5), size_t(5));
    }

    void of_its_sources_one_or_all_are_played() {
        const auto count = [&](int source) {
            return particles(after(playing([source](Emitter& e) { e.clip_source = source; }), 30)).size();
        };
        QVERIFY(count(1) > 0 && count(2) > 0 && count(1) != count(2));
        QCOMPARE(count(0), count(1) + count(2));
        QCOMPARE(count(3), size_t(0));
    }

    void it_is_placed_turned_and_scaled() {
        const auto plain = particles(after(playing([](Emitter& e) { e.position = {}; }), 20));
        const auto moved = particles(after(playing([](Emitter& e) {
                                               e.position = {1, 2, 3};
                                               e.turn = {0, 90, 0};
                                               e.scale = 2;
                                           }),
                                           20));
        QCOMPARE(moved.size(), plain.size());
        for (size_t i = 0; i < plain.size(); ++i) {
            const Vec3 p = plain[i].position * 2.0f;
            QVERIFY(length(moved[i].position - Vec3{1 + p.z, 2 + p.y, 3 - p.x}) < 1e-4f);
            QVERIFY(std::abs(moved[i].size - 2 * plain[i].size) < 1e-6f);
        }
    }

    void between_frames_particles_move_evenly() {
        // Played at a third: two of three steps lie between two frames.
        const auto slow = [](Emitter& e) { e.clip_speed = 1 / 3.0f; };
        Simulation clip = after(playing(slow), 60);
        const auto a = particles(clip);
        clip.step();
        const auto b = particles(clip);
        clip.step();
        const auto c = particles(clip);
        clip.step();
        const auto d = particles(clip);
        int compared = 0;
        for (const ParticleState& first : a) {
            const auto same = [&](const std::vector<ParticleState>& list) {
                return std::find_if(list.begin(), list.end(),
                                    [&](const ParticleState& each) { return each.number == first.number; });
            };
            if (same(b) == b.end() || same(c) == c.end() || same(d) == d.end()) {
                continue;
            }
            const Vec3 way = same(d)->position - first.position;
            QVERIFY(length(same(b)->position - first.position - way * (1 / 3.0f)) < 2e-5f);
            QVERIFY(length(same(c)->position - first.position - way * (2 / 3.0f)) < 2e-5f);
            ++compared;
        }
        QVERIFY(compared > 10);
    }

    void sources_are_born_of_its_particles_and_of_their_deaths() {
        Effect effect = playing();
        Emitter trail = still(0, 5);
        trail.parent = "e";
        trail.when = ChildWhen::always;
        trail.per_parent_rate = 30;
        effect.elements.push_back({.id = "trail", .name = "Trail", .body = trail});
        Emitter ends = still(0, 50);
        ends.parent = "e";
        ends.when = ChildWhen::death;
        ends.per_parent_count = 1;
        effect.elements.push_back({.id = "ends", .name = "Ends", .body = ends});
        const Simulation simulation = after(effect, 120);
        QVERIFY(particles(simulation, "trail").size() > 100);
        // Each of those that were there has gone, once.
        std::set<uint32_t> numbers;
        for (int step = 1; step <= 59; ++step) {
            for (const ParticleState& each : particles(after(playing(), step))) {
                numbers.insert(each.number);
            }
        }
        QCOMPARE(particles(simulation, "ends").size(), numbers.size());
    }

    void smoke_is_fed_by_it() {
        Effect effect = playing([](Emitter& e) { e.clip_end = ClipEnd::again; });
        Smoke smoke;
        smoke.position = {0, 0, 0};
        smoke.size = {2, 2, 2};
        smoke.resolution = 16;
        effect.elements.push_back({.id = "smoke", .name = "Smoke", .body = smoke});
        SmokeSource source;
        source.shape = FeedShape::particles;
        source.source = "e";
        source.density = 5;
        effect.elements.push_back({.id = "feed", .name = "Feed", .body = source});
        QVERIFY(after(effect, 60).find_smoke("smoke")->mass() > 0.01);
    }

    void what_is_restored_goes_on_to_the_same_bytes() {
        const Effect effect = playing([](Emitter& e) { e.clip_end = ClipEnd::again; });
        Simulation whole = after(effect, 90);
        const auto kept = whole.snapshot();
        for (int i = 0; i < 40; ++i) {
            whole.step();
        }
        Simulation other = started(effect);
        other.restore(*kept);
        for (int i = 0; i < 40; ++i) {
            other.step();
        }
        QCOMPARE(state_bytes(other, {"e"}), state_bytes(whole, {"e"}));
    }

    void files_that_others_wrote_are_read() {
        Problems problems;
        const std::string text =
            "ply\nformat ascii 1.0\ncomment by hand\nelement vertex 2\nproperty double x\nproperty "
            "double y\nproperty double z\nproperty uchar red\nproperty uchar green\nproperty uchar "
            "blue\nelement face 0\nproperty list uchar int vertex_indices\nend_header\n"
            "1 2 3 255 0 64\n-1.5 0 4e-1 0 0 0\n";
        const auto read = parsed(text, problems);
        QVERIFY(read && problems.empty());
        QCOMPARE(read->size(), size_t(2));
        QCOMPARE((*read)[0].place, (Vec3{1, 2, 3}));
        QCOMPARE((*read)[1].place, (Vec3{-1.5f, 0, 0.4f}));
        QVERIFY((*read)[0].tint.red > 0.99f && (*read)[0].tint.green == 0);
        // Two frames of it: who is there at the same place in the list is the same.
        QDir().mkpath(folder_.filePath("theirs"));
        for (const char* name : {"cloud_7.ply", "cloud_8.ply", "cloud_10.ply"}) {
            QFile file(folder_.filePath("theirs/") + name);
            QVERIFY(file.open(QIODevice::WriteOnly));
            file.write(QByteArray::fromStdString(text));
        }
        const auto clip = read_clip(folder_.filePath("theirs/cloud_7.ply").toStdString(), problems);
        QVERIFY(clip && problems.empty());
        QCOMPARE(clip->frames.size(), size_t(2)); // 9 is missing
        QCOMPARE(clip->frames_per_s, 30.0);
        QVERIFY(std::abs(clip->frames[1][0].age - 1 / 30.0f) < 1e-6f);
    }

    void big_ends_come_first_where_the_file_says_so() {
        std::string bytes =
            "ply\nformat binary_big_endian 1.0\nelement vertex 1\nproperty float x\nproperty float "
            "y\nproperty float z\nproperty ushort id\nend_header\n";
        bytes += std::string("\x3f\x80\0\0\x40\0\0\0\xbf\x80\0\0\x01\x02", 14);
        Problems problems;
        const auto read = parsed(bytes, problems);
        QVERIFY(read && problems.empty());
        QCOMPARE((*read)[0].place, (Vec3{1, 2, -1}));
        QCOMPARE((*read)[0].number, 258u);
    }

    // Within what half floats hold, cell by cell; heat too.
    void smoke_is_as_it_was() {
        Simulation truth, clip = started(smoke_playing()),
                          second = started(smoke_playing([](Smoke&s) { s.clip_volume = 2; }));
        truth.set_effect(shared(smoking_effect()));
        for (int step = 1; step < 60; ++step) {
            truth.step();
            clip.step();
            second.step();
        }
        const SmokeVolume& was = *truth.find_smoke("left");
        const SmokeSize& size = was.size();
        double most = 0, other = 0;
        for (int z = 0; z < size.z; ++z) {
            for (int y = 0; y < size.y; ++y) {
                for (int x = 0; x < size.x; ++x) {
                    const float expected = density_of(truth, "left", x, y, z);
                    QVERIFY(std::abs(density_of(clip, "left", x, y, z) - expected) <=
                            1e-3f * expected + 1e-6f);
                    const float heat = was.cells()[size.packed(x, y, z)].heat;
                    const float shown = clip.find_smoke("left")->cells()[size.packed(x, y, z)].heat;
                    QVERIFY(std::abs(shown - heat) <= 1e-3f * heat + 1e-2f);
                    const float right = density_of(truth, "right", x, y, z);
                    QVERIFY(std::abs(density_of(second, "left", x, y, z) - right) <= 1e-3f * right + 1e-6f);
                    most = std::max(most, double(expected));
                    other = std::max(other, double(right));
                }
            }
        }
        QVERIFY(most > 0.3 && other > 2 * most);
        // The picture is given what the volume holds.
        Frame frame;
        clip.write_frame(frame);
        QCOMPARE(frame.smokes.size(), size_t(1));
        QVERIFY(*std::max_element(frame.smokes[0]->density.begin(), frame.smokes[0]->density.end()) > 0.3f);
    }

    void smoke_starts_trims_speeds_and_ends_as_it_is_set() {
        const double half = smoke_at({}, 0.5);
        QVERIFY2(half > 1, qPrintable(QString::number(half)));
        QCOMPARE(smoke_at([](Smoke& s) { s.clip_start = 2; }, 1.9), 0.0);
        QVERIFY(std::abs(smoke_at([](Smoke& s) { s.clip_start = 2; }, 2.5) - half) < 1e-3 * half);
        QVERIFY(std::abs(smoke_at([](Smoke& s) { s.clip_from = 0.25f; }, 0.25) - half) < 1e-3 * half);
        QVERIFY(std::abs(smoke_at([](Smoke& s) { s.clip_speed = 2; }, 0.25) - half) < 1e-3 * half);
        QCOMPARE(smoke_at({}, 1.5), 0.0);
        const auto held = [](Smoke& s) {
            s.clip_end = ClipEnd::held;
            s.clip_to = 0.5f;
        };
        QVERIFY(std::abs(smoke_at(held, 1.5) - half) < 1e-3 * half);
        const auto again = [](Smoke& s) {
            s.clip_end = ClipEnd::again;
            s.clip_to = 0.75f;
        };
        QVERIFY(std::abs(smoke_at(again, 1.25) - half) < 1e-3 * half);
        // Between two frames there is what lies between them.
        const double next = smoke_at({}, 31 / 60.0);
        const double between = smoke_at([](Smoke& s) { s.clip_start = -0.5f / 60; }, 0.5);
        QVERIFY(next > half && std::abs(between - (half + next) / 2) < 1e-3 * half);
        // In a finer volume there is as much, elsewhere it is elsewhere.
        const double finer = smoke_at([](Smoke& s) { s.resolution = 32; }, 0.5) / 8;
        QVERIFY(std::abs(finer - half) < 0.05 * half);
        const auto moved = [](Smoke& s) { s.position = {7, 8, 9}; };
        QVERIFY(std::abs(smoke_at(moved, 0.5) - half) < 1e-3 * half);
    }

    void smoke_that_is_restored_goes_on_to_the_same_bytes() {
        const Effect effect = smoke_playing([](Smoke& s) { s.clip_speed = 0.7f; });
        Simulation one = after(effect, 20), other = started(effect);
        other.restore(*one.snapshot());
        for (int i = 0; i < 20; ++i) {
            one.step();
            other.step();
        }
        QVERIFY(state_bytes(one, {"left"}) == state_bytes(other, {"left"}));
        // Taken away, the gas is computed, and begins without any.
        Effect live = effect;
        std::get<Smoke>(live.elements[0].body).clip.clear();
        one.set_effect(shared(live));
        one.step();
        QCOMPARE(one.find_smoke("left")->mass(), 0.0);
    }

    // Within a millimetre or two and a fraction of a degree: keys of files are thinned.
    void pieces_move_as_they_did() {
        Simulation truth, left = started(pieces_playing(1)), all = started(pieces_playing(0));
        const Effect effect = breaking_effect();
        truth.set_effect(shared(effect), AssetLibrary().load(effect, ".").assets);
        size_t most = 0;
        for (int step = 1; step < 60; ++step) {
            truth.step();
            left.step();
            all.step();
            const auto expected = pieces_of(truth, "left"), shown = pieces_of(left, "clip");
            QCOMPARE(shown.size(), expected.size());
            QCOMPARE(pieces_of(all, "clip").size(), expected.size() + pieces_of(truth, "right").size());
            QCOMPARE(left.meters().debris.pieces, expected.size());
            QCOMPARE(left.meters().elements[0].live, expected.size());
            for (const FramePiece& piece : expected) {
                const auto near = [&](const FramePiece& other) {
                    const Quaternion a = Quaternion::of(piece.placement.axes),
                                     b = Quaternion::of(other.placement.axes);
                    return length(other.placement.position - piece.placement.position) < 2e-3f &&
                           std::abs(dot(a, b)) > 0.99999f;
                };
                QVERIFY2(std::any_of(shown.begin(), shown.end(), near), qPrintable(QString::number(step)));
            }
            most = std::max(most, expected.size());
        }
        QVERIFY(most >= 6);
        // With the shapes that they had.
        Frame frame, was;
        left.write_frame(frame);
        truth.write_frame(was);
        const Cut& cut = *was.debris.at(0).cut;
        const Cut& read = *frame.debris.at(0).cut;
        const Piece& first = cut.pieces[was.debris.at(0).pieces.at(0).piece];
        const Piece& shape = read.pieces[frame.debris.at(0).pieces.at(0).piece];
        QCOMPARE(shape.mesh.triangles.size(), first.mesh.triangles.size());
        QCOMPARE(shape.outer, first.outer);
        QVERIFY(std::abs(shape.radius - first.radius) < 1e-4f);
    }

    void pieces_start_end_and_stand_as_it_is_set() {
        const auto count = [&](const std::function<void(Breakable&)>& change, double at_s) {
            return pieces_of(after(pieces_playing(1, change), int(std::lround(at_s * 60))), "clip").size();
        };
        const size_t whole = count({}, 0.8);
        QVERIFY(whole > 0);
        QCOMPARE(count([](Breakable& b) { b.clip_start = 2; }, 1.9), size_t(0));
        QCOMPARE(count([](Breakable& b) { b.clip_start = 2; }, 2.8), whole);
        QCOMPARE(count({}, 1.5), size_t(0));
        QCOMPARE(count([](Breakable& b) { b.clip_end = ClipEnd::held; }, 1.5), whole);
        QCOMPARE(count([](Breakable& b) { b.clip_body = 3; }, 0.8), size_t(0));
        const auto first = [&](const std::function<void(Breakable&)>& change) {
            return pieces_of(after(pieces_playing(1, change), 48), "clip").at(0).placement.position;
        };
        const Vec3 here = first({});
        QVERIFY(length(first([](Breakable& b) { b.position = {1, 2, 3}; }) - here - Vec3{1, 2, 3}) < 1e-4f);
        const Vec3 turned = first([](Breakable& b) { b.turn = {0, 90, 0}; });
        QVERIFY(length(turned - Vec3{here.z, here.y, -here.x}) < 1e-3f);
        // A mute takes them away, and nothing of it is state.
        Effect muted = pieces_playing(1);
        muted.elements[0].muted = true;
        QVERIFY(pieces_of(after(muted, 48), "clip").empty());
        Simulation one = after(pieces_playing(1), 20), other = started(pieces_playing(1));
        other.restore(*one.snapshot());
        one.step();
        other.step();
        QCOMPARE(pieces_of(one, "clip").at(0).placement.position,
                 pieces_of(other, "clip").at(0).placement.position);
        QCOMPARE(one.meters().debris.pieces, other.meters().debris.pieces);
    }

    void pieces_of_a_clip_stir_smoke() {
        const auto stirred = [&](bool is_muted) {
            Effect effect = pieces_playing(1);
            effect.elements[0].muted = is_muted;
            const Vec3 middle = std::get<Breakable>(find_element(breaking_effect(), "left")->body).position;
            Smoke smoke;
            smoke.position = {middle.x, 1, middle.z};
            smoke.size = {2, 2, 2};
            smoke.resolution = 24;
            smoke.lift = smoke.curl = 0;
            SmokeSource source;
            source.shape = FeedShape::box;
            source.position = smoke.position;
            source.size = {2, 2, 2};
            source.way = FeedWay::keep;
            source.heat = 0;
            effect.elements.push_back({.id = "smoke", .name = "Smoke", .body = smoke});
            effect.elements.push_back({.id = "source", .name = "Source", .body = source});
            const Simulation simulation = after(effect, 24);
            const SmokeVolume& volume = *simulation.find_smoke("smoke");
            double fastest = 0;
            int solid = 0;
            for (int z = 0; z < volume.size().z; ++z) {
                for (int y = 0; y < volume.size().y; ++y) {
                    for (int x = 0; x < volume.size().x; ++x) {
                        fastest = std::max(fastest, double(length(volume.flow(x, y, z))));
                        solid += volume.is_solid(x, y, z) ? 1 : 0;
                    }
                }
            }
            return std::pair(fastest, solid);
        };
        const auto [fastest, solid] = stirred(false);
        const auto [still, none] = stirred(true);
        QVERIFY2(fastest > 0.5 && solid > 0, qPrintable(QString("%1 m/s, %2 cells").arg(fastest).arg(solid)));
        QVERIFY(still < 0.1 && none == 0);
    }

    void files_of_pieces_that_are_damaged_are_refused() {
        const auto problem_of = [&](const QString& file) {
            Problems problems;
            const auto clip = read_piece_clip(file.toStdString(), problems);
            return clip || problems.empty() ? QString() : QString::fromStdString(problems[0].text());
        };
        QVERIFY(problem_of("nothing.glb").contains("no such file"));
        QFile whole(folder_.filePath("broken/pieces.glb"));
        QVERIFY(whole.open(QIODevice::ReadOnly));
        const QByteArray bytes = whole.readAll();
        for (const qsizetype size : {qsizetype(0), qsizetype(30), bytes.size() / 3, bytes.size() - 1000}) {
            QFile cut(folder_.filePath("cut.glb"));
            QVERIFY(cut.open(QIODevice::WriteOnly));
            cut.write(bytes.left(size));
            cut.close();
            QVERIFY2(!problem_of(folder_.filePath("cut.glb")).isEmpty(), qPrintable(QString::number(size)));
        }
        // A mesh that stands still is one frame.
        Problems problems;
        QFile mesh(folder_.filePath("still.gltf"));
        QVERIFY(mesh.open(QIODevice::WriteOnly));
        mesh.write(R"({"asset":{"version":"2.0"},"scene":0,"scenes":[{"nodes":[0]}],"nodes":[{"mesh":0,
"translation":[1,2,3],"scale":[2,2,2]}],"meshes":[{"primitives":[{"attributes":{"POSITION":0}}]}],
"accessors":[{"bufferView":0,"componentType":5126,"count":3,"type":"VEC3","min":[0,0,0],"max":[1,1,0]}],
"bufferViews":[{"buffer":0,"byteLength":36}],"buffers":[{"byteLength":36,
"uri":"data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAA"}]})");
        mesh.close();
        const auto still = read_piece_clip(mesh.fileName().toStdString(), problems);
        QVERIFY2(still && still->frames() == 1, problems.empty() ? "" : problems[0].text().c_str());
        const PieceKey key = still->at(0, 0);
        QVERIFY(length(key.place - Vec3{1, 2, 3}) < 1e-5f && std::abs(key.size - 2) < 1e-5f);
    }

    void smoke_that_is_damaged_or_not_there_is_said() {
        const auto problems_of = [&](const char* file, int volume) {
            Problems problems;
            const auto clip = read_smoke_clip(folder_.filePath(file).toStdString(), volume, problems);
            return clip || problems.empty() ? QString() : QString::fromStdString(problems[0].text());
        };
        QVERIFY(problems_of("baked/smoke/00000.vdb", 3).contains("3 grids"));
        QVERIFY(problems_of("nothing.vdb", 1).contains("no such file"));
        QFile whole(folder_.filePath("baked/smoke/00030.vdb"));
        QVERIFY(whole.open(QIODevice::ReadOnly));
        const QByteArray bytes = whole.readAll();
        for (const qsizetype size : {qsizetype(0), qsizetype(40), bytes.size() / 2}) {
            QFile cut(folder_.filePath("cut.vdb"));
            QVERIFY(cut.open(QIODevice::WriteOnly));
            cut.write(bytes.left(size));
            cut.close();
            QVERIFY2(!problems_of("cut.vdb", 1).isEmpty(), qPrintable(QString::number(size)));
        }
        const Effect effect = smoke_playing([](Smoke& s) { s.clip = "nothing.vdb"; });
        QVERIFY(!AssetLibrary().load(effect, folder_.path().toStdString()).missing.empty());
        QCOMPARE(after(effect, 5).find_smoke("left")->mass(), 0.0);
    }

    void damaged_files_are_refused_and_nothing_breaks() {
        QFile file(folder_.filePath("baked/particles/00030.ply"));
        QVERIFY(file.open(QIODevice::ReadOnly));
        const std::string whole = file.readAll().toStdString();
        for (size_t length = 0; length < whole.size(); length += length < 900 ? 7 : 211) {
            Problems problems;
            const auto read = parsed(whole.substr(0, length), problems);
            QVERIFY(!read && problems.size() == 1);
        }
        for (const char* text :
             {"ply\n", "plx\nformat ascii 1.0\n", "ply\nformat ascii 1.0\nelement face 3\nend_header\n",
              "ply\nelement vertex 1\nproperty float x\nend_header\n1\n",
              "ply\nformat ascii 1.0\nelement vertex 99999999999999\nproperty float x\nproperty float "
              "y\nproperty float z\nend_header\n1 2 3\n",
              "ply\nformat ascii 1.0\nelement vertex 1\nproperty list uchar int x\nend_header\n1\n",
              "ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty "
              "float z\nend_header\n1 two 3\n"}) {
            Problems problems;
            QVERIFY(!parsed(text, problems));
            QVERIFY(!problems[0].found.empty() && !problems[0].expected.empty());
        }
        // Numbers that are none stand for nothing.
        Problems problems;
        const auto read =
            parsed("ply\nformat ascii 1.0\nelement vertex 1\nproperty float x\nproperty float y\nproperty "
                   "float z\nproperty float size\nend_header\nnan 1e30 -inf -4\n",
                   problems);
        QVERIFY(read.has_value());
        const ClipParticle& particle = read->front();
        QVERIFY(std::isfinite(particle.place.x) && std::isfinite(particle.place.y) &&
                std::isfinite(particle.place.z));
        QCOMPARE(particle.size, 0.0f);
    }

    void a_clip_that_is_not_there_is_said_and_shows_nothing() {
        const Effect effect = playing([](Emitter& e) { e.clip = "nowhere/00000.ply"; });
        const LoadResult loaded = AssetLibrary().load(effect, folder_.path().toStdString());
        QCOMPARE(loaded.missing.size(), size_t(1));
        QVERIFY(loaded.missing[0].place.find("e.clip") == 0);
        QCOMPARE(particles(after(effect, 30)).size(), size_t(0));
    }
};

QTEST_GUILESS_MAIN(TestClips)
#include "tst_clips.moc"
