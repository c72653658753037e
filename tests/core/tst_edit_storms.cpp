// State is kept by id: whatever is added, taken out, moved, muted and undone, and whatever lens looks, while
// it runs and while it is paused, nothing is read that belongs to another element.
#include "demos.h"
#include "sample_effects.h"
#include "state_bytes.h"

#include "core/effect/edit.h"
#include "core/effect/history.h"

#include <QtTest>

#include <random>

using namespace ember;
using namespace ember::sample;

namespace {

struct Storm {
    std::mt19937 draw;
    AssetLibrary library;
    Simulation simulation;
    History history;

    Storm(EffectPtr effect, uint32_t seed) : draw(seed), history(std::move(effect)) {
        simulation.note_contacts(true);
        take();
    }

    void take() {
        simulation.set_effect(history.current(),
                              library.load(*history.current(), demo_folder.toStdString()).assets);
    }

    const Effect& now() const { return *history.current(); }
    size_t below(size_t count) { return count == 0 ? 0 : draw() % count; }
    const Element& any() { return now().elements[below(now().elements.size())]; }

    // One edit of a kind that is drawn; nothing if there is nothing to be edited so.
    std::optional<Effect> edited() {
        std::string id;
        const bool is_full = now().elements.size() > 40;
        switch (draw() % 9) {
        case 0:
        case 1: {
            const auto types = element_types();
            return is_full ? std::nullopt
                           : std::optional(with_new_element(now(), types[below(types.size())], id));
        }
        case 2:
            return now().elements.size() > 3 ? std::optional(without_element(now(), any().id)) : std::nullopt;
        case 3:
            return with_moved(now(), any().id, draw() % 2 == 0 ? -1 : 1);
        case 4:
            return with_placed(now(), {any().id}, any().id, draw() % 2 == 0);
        case 5: {
            const Element& one = any();
            return with_muted(now(), one.id, !one.muted);
        }
        case 6:
            return is_full ? std::nullopt : std::optional(with_duplicate(now(), any().id, id));
        case 7: {
            const Element& one = any();
            const Element& other = any();
            const bool is_linked = find_link(one, other.id) != nullptr;
            const bool can_be =
                family_of(one.body) == Family::force || family_of(one.body) == Family::collider;
            const bool is_source =
                std::holds_alternative<Emitter>(other.body) || std::holds_alternative<Breakable>(other.body);
            if (!can_be || !is_source) {
                return std::nullopt;
            }
            return with_link(now(), one.id, other.id,
                             is_linked ? std::nullopt : std::optional(0.1f + 0.8f * float(draw() % 2)));
        }
        default: { // a number, to any place in its range
            const Element& one = any();
            const auto holder = find_holder(now(), one.id);
            const Parameter& parameter = holder->parameters[below(holder->parameters.size())];
            if (parameter.kind != ParameterKind::number) {
                return std::nullopt;
            }
            const float share = float(draw() % 1000) / 999;
            const float value =
                float(parameter.soft_low + double(share) * (parameter.soft_high - parameter.soft_low));
            return refusal_of(parameter, value) ? std::nullopt
                                                : std::optional(with_value(now(), one.id, parameter, value));
        }
        }
    }

    void edit() {
        if (draw() % 5 == 0 && history.can_undo()) {
            history.undo();
        } else if (draw() % 11 == 0 && history.can_redo()) {
            history.redo();
        } else if (auto effect = edited()) {
            if (!whole_refusal(*effect)) {
                history.push(shared(std::move(*effect)), "edit");
            }
        }
        take();
    }

    // All that looks at a simulation, whether it runs or not.
    void look() {
        FieldOrder order;
        for (int i = 0; i < 12; ++i) {
            order.places.push_back({-1 + 0.2f * float(i), 0.2f * float(i), 0.3f});
        }
        order.seeds = {{0, 0.5f, 0}, {1, 1, 0}};
        order.line_steps = 8;
        order.line_step = 0.1f;
        read(order);
        order.influence = any().id;
        order.source = any().id;
        read(order);
        for (const auto aspect : {SmokeAspect::density, SmokeAspect::flow, SmokeAspect::outflow}) {
            order.smoke = aspect;
            read(order);
        }
        Frame frame;
        simulation.write_frame(frame);
        QCOMPARE(frame.now->elements.size(), now().elements.size());
        QCOMPARE(frame.placements.size(), now().elements.size());
        for (const FrameSource& source : frame.sources) {
            QVERIFY(std::holds_alternative<Emitter>(frame.now->elements.at(source.element).body));
        }
    }

    void read(const FieldOrder& order) {
        const FieldReading reading = simulation.read_field(order);
        for (const Vec3& vector : reading.vectors) {
            QVERIFY(std::isfinite(vector.x) && std::isfinite(vector.y) && std::isfinite(vector.z));
        }
    }
};

} // namespace

class TestEditStorms : public QObject {
    Q_OBJECT

  private slots:
    void random_edits_leave_nothing_astray_data() { add_demo_rows(); }

    void random_edits_leave_nothing_astray() {
        QFETCH(const QString, name);
        EffectPtr effect = shared(demo_effect(name));
        Storm storm(effect, uint32_t(name.size()));
        storm.simulation.step();
        for (int i = 0; i < 200; ++i) {
            storm.edit();
            if (storm.draw() % 3 != 0) { // else it is paused
                const uint64_t steps = storm.draw() % 4;
                for (uint64_t k = 0; k < steps; ++k) {
                    StepInputs inputs;
                    inputs.clicks = int(storm.draw() % 2);
                    storm.simulation.step(inputs);
                }
            }
            storm.look();
            if (QTest::currentTestFailed()) {
                qWarning("after edit %d", i);
                return;
            }
        }
    }

    // What acts on nothing is no reason for anything else to come out otherwise.
    void an_element_that_acts_on_nothing_changes_nothing_data() { add_demo_rows(); }

    void an_element_that_acts_on_nothing_changes_nothing() {
        QFETCH(const QString, name);
        const Effect effect = demo_effect(name);
        const std::vector<std::string> ids = ids_of(effect);
        const Assets assets = demo_assets(effect);
        const auto bytes_of = [&](const Effect& one) {
            Simulation simulation;
            simulation.set_effect(shared(one), assets);
            for (int i = 0; i < 360; ++i) {
                simulation.step();
            }
            return state_bytes(simulation, ids);
        };
        // Before all others, so that their indices shift: a force, a collider, a source and a mover.
        Effect more = effect;
        Emitter emitter;
        emitter.look = effect.looks.empty() ? "" : effect.looks.front().id;
        emitter.position = {200, 0, 0};
        Ball far;
        far.position = {300, 0, 0};
        far.visible = false;
        for (const ElementBody& body : {ElementBody(Gravity()), ElementBody(far), ElementBody(Orbit())}) {
            const std::string id = "idle-" + std::to_string(more.elements.size());
            more.elements.insert(more.elements.begin(), {.id = id, .name = id, .body = body});
        }
        if (!effect.looks.empty()) {
            more.elements.insert(more.elements.begin(), {.id = "idle", .name = "Idle", .body = emitter});
        }
        QVERIFY(bytes_of(more) == bytes_of(effect));
    }
};

QTEST_GUILESS_MAIN(TestEditStorms)
#include "tst_edit_storms.moc"
