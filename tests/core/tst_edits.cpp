#include "core/effect/edit.h"
#include "core/effect/history.h"

#include <QtTest>

using namespace ember;

namespace {

const ElementType& type(const char* key) {
    return *find_type(key);
}

} // namespace

class TestEdits : public QObject {
    Q_OBJECT

  private slots:
    void new_influence_is_linked_to_every_source() {
        std::string id;
        Effect effect = with_new_element(starter_effect(), type("emitter"), id);
        effect = with_new_element(effect, type("wind"), id);
        QCOMPARE(find_element(effect, id)->links.size(), size_t(2));
        QCOMPARE(find_link(*find_element(effect, id), "emitter")->weight, 1.0f);
    }

    void new_source_has_a_look_of_its_own_and_is_linked_to_every_influence() {
        std::string id;
        const Effect effect = with_new_element(starter_effect(), type("emitter"), id);
        const auto& emitter = std::get<Emitter>(find_element(effect, id)->body);
        QVERIFY(find_look(effect, emitter.look) != nullptr);
        QVERIFY(emitter.look != "soft-dots");
        QVERIFY(find_link(*find_element(effect, "gravity"), id) != nullptr);
    }

    void elements_stay_grouped_by_family() {
        Effect effect = starter_effect();
        std::string id;
        for (const char* key : {"box", "wind", "emitter", "drag"}) {
            effect = with_new_element(effect, type(key), id);
        }
        for (size_t i = 1; i < effect.elements.size(); ++i) {
            QVERIFY(family_of(effect.elements[i - 1].body) <= family_of(effect.elements[i].body));
        }
    }

    void names_and_ids_are_unique() {
        Effect effect = starter_effect();
        std::string id;
        effect = with_new_element(effect, type("wind"), id);
        QCOMPARE(id, std::string("wind"));
        effect = with_new_element(effect, type("wind"), id);
        QCOMPARE(id, std::string("wind-2"));
        QCOMPARE(find_element(effect, id)->name, std::string("Wind 2"));
    }

    void renaming_keeps_the_id() {
        const Effect effect = with_name(starter_effect(), "gravity", "Moon");
        QCOMPARE(find_element(effect, "gravity")->name, std::string("Moon"));
    }

    void duplicate_keeps_links_and_shares_the_look() {
        Effect effect = with_link(starter_effect(), "gravity", "emitter", 0.25f);
        std::string id;
        effect = with_duplicate(effect, "emitter", id);
        QCOMPARE(find_link(*find_element(effect, "gravity"), id)->weight, 0.25f);
        QCOMPARE(std::get<Emitter>(find_element(effect, id)->body).look, std::string("soft-dots"));
        QCOMPARE(effect.looks.size(), size_t(1));
    }

    void deleting_a_source_takes_its_links_and_its_own_look() {
        const Effect effect = without_element(starter_effect(), "emitter");
        QVERIFY(find_element(effect, "gravity")->links.empty());
        QVERIFY(effect.looks.empty());

        std::string id;
        const Effect shared = without_element(with_duplicate(starter_effect(), "emitter", id), "emitter");
        QCOMPARE(shared.looks.size(), size_t(1));
    }

    void solo_silences_only_its_own_side_of_the_board() {
        std::string id;
        Effect effect = with_new_element(starter_effect(), type("wind"), id);
        effect = with_solo(effect, id, true);
        QVERIFY(is_active(effect, *find_element(effect, id)));
        QVERIFY(!is_active(effect, *find_element(effect, "gravity")));
        QVERIFY(is_active(effect, *find_element(effect, "emitter")));
        QVERIFY(!is_active(with_muted(effect, id, true), *find_element(with_muted(effect, id, true), id)));
    }

    void undo_and_redo_walk_through_all_effects() {
        History history(std::make_shared<const Effect>(starter_effect()));
        for (uint32_t seed = 10; seed < 20; ++seed) {
            history.push(std::make_shared<const Effect>(with_seed(*history.current(), seed)), "seed");
        }
        for (int i = 0; i < 10; ++i) {
            QVERIFY(history.can_undo());
            history.undo();
        }
        QVERIFY(!history.can_undo());
        QVERIFY(history.is_saved());
        QVERIFY(*history.current() == starter_effect());
        history.redo();
        QCOMPARE(history.current()->seed, 10u);
        history.push(std::make_shared<const Effect>(with_seed(*history.current(), 99)), "seed");
        QVERIFY(!history.can_redo());
    }

    void a_gesture_is_one_step_of_undo() {
        History history(std::make_shared<const Effect>(starter_effect()));
        const auto turn = [&](uint32_t seed, const char* gesture) {
            history.push(std::make_shared<const Effect>(with_seed(*history.current(), seed)), "seed",
                         gesture);
        };
        turn(5, "drag 1");
        turn(6, "drag 1");
        turn(7, "drag 1");
        history.end_gesture();
        turn(8, "drag 1");
        history.undo();
        QCOMPARE(history.current()->seed, 7u);
        history.undo();
        QCOMPARE(history.current()->seed, 1u);
        QVERIFY(!history.can_undo());
    }

    void an_edit_that_is_taken_back_by_hand_leaves_nothing_unsaved() {
        History history(std::make_shared<const Effect>(starter_effect()));
        history.push(std::make_shared<const Effect>(with_seed(*history.current(), 5)), "seed");
        QVERIFY(!history.is_saved());
        history.push(std::make_shared<const Effect>(with_seed(*history.current(), 1)), "seed");
        QVERIFY(history.is_saved());
    }
};

QTEST_APPLESS_MAIN(TestEdits)
#include "tst_edits.moc"
