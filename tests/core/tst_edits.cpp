#include "core/budget/expected.h"
#include "core/effect/drive.h"
#include "core/effect/edit.h"
#include "core/effect/effect_file.h"
#include "core/effect/history.h"
#include "core/effect/paste.h"

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

    void elements_move_among_their_kind_only() {
        Effect effect = starter_effect();
        std::string first, second;
        effect = with_new_element(effect, type("wind"), first);
        effect = with_new_element(effect, type("drag"), second);
        const auto order = [](const Effect& e) {
            std::string ids;
            for (const Element& element : e.elements) {
                ids += element.id + " ";
            }
            return ids;
        };
        const Effect moved = with_moved(effect, second, -1);
        QVERIFY(order(moved).find("drag wind") != std::string::npos);
        QCOMPARE(with_moved(moved, second, 1), effect);
        for (const Element& element : effect.elements) {
            for (const int by : {-1, 1}) {
                Effect far = effect;
                for (int i = 0; i < 10; ++i) {
                    far = with_moved(far, element.id, by);
                }
                for (size_t i = 1; i < far.elements.size(); ++i) {
                    QVERIFY(family_of(far.elements[i - 1].body) <= family_of(far.elements[i].body));
                }
            }
        }
    }

    void copied_elements_bring_links_looks_and_drives() {
        Effect effect = starter_effect();
        std::string wind, cycle;
        std::vector<std::string> ids;
        effect = with_new_element(effect, type("wind"), wind);
        effect = with_link(effect, wind, "emitter", 0.4f);
        effect = with_new_element(effect, type("cycle"), cycle);
        effect = with_drive(effect, {wind, "speed", 0, cycle, 1, 9, {}});

        // In the same effect.
        const auto twice = with_pasted(effect, copied_text(effect, {wind}), ids);
        QVERIFY(twice.has_value());
        QCOMPARE(find_link(*find_element(*twice, ids[0]), "emitter")->weight, 0.4f);
        QCOMPARE(find_drive(*twice, ids[0], "speed", 0)->modulator, cycle);
        QCOMPARE(twice->elements.size(), effect.elements.size() + 1);

        // In another one, which has no such modulator.
        const auto other = with_pasted(starter_effect(), copied_text(effect, {wind}), ids);
        QCOMPARE(find_link(*find_element(*other, ids[0]), "emitter")->weight, 0.4f);
        QVERIFY(find_element(*other, find_drive(*other, ids[0], "speed", 0)->modulator) != nullptr);
        QVERIFY(parse_effect(effect_text(*other), "x").problems.empty());

        // A source shares its look where it is, and brings it where it is not.
        const auto source = with_pasted(effect, copied_text(effect, {"emitter"}), ids);
        QCOMPARE(source->looks.size(), effect.looks.size());
        QCOMPARE(find_link(*find_element(*source, wind), ids[0])->weight, 0.4f);
        Effect glowing = effect;
        glowing.looks[0].glow = 7;
        const auto brought = with_pasted(effect, copied_text(glowing, {"emitter"}), ids);
        QCOMPARE(brought->looks.size(), effect.looks.size() + 1);
        QCOMPARE(find_look(*brought, std::get<Emitter>(find_element(*brought, ids[0])->body).look)->glow,
                 7.0f);
    }

    void elements_copied_together_stay_linked_to_one_another() {
        Effect effect = starter_effect();
        std::string child, wind, mover;
        effect = with_new_element(effect, type("emitter"), child);
        std::get<Emitter>(effect.elements[1].body).parent = "emitter";
        effect = with_new_element(effect, type("wind"), wind);
        effect = with_link(effect, wind, child, 0.3f);
        std::vector<std::string> ids;
        const auto pasted = with_pasted(effect, copied_text(effect, {"emitter", child, wind}), ids);
        QCOMPARE(ids.size(), size_t(3));
        QCOMPARE(std::get<Emitter>(find_element(*pasted, ids[1])->body).parent, ids[0]);
        QCOMPARE(find_link(*find_element(*pasted, ids[2]), ids[1])->weight, 0.3f);
        QCOMPARE(find_link(*find_element(*pasted, ids[2]), ids[0])->weight, 1.0f);
        QVERIFY(find_link(*find_element(*pasted, ids[2]), child) == nullptr); // its own child is there
        QVERIFY(parse_effect(effect_text(*pasted), "x").problems.empty());
    }

    void a_source_and_its_look_of_one_name_get_ids_of_their_own() {
        Effect effect = starter_effect();
        effect.elements[0].name = effect.looks[0].name = "Mist";
        std::vector<std::string> ids;
        const auto brought = with_sources_of(with_seed(starter_effect(), 2), effect, ids);
        QCOMPARE(ids.size(), size_t(1));
        const std::string& look = std::get<Emitter>(find_element(*brought, ids[0])->body).look;
        QVERIFY(look != ids[0]);
        QCOMPARE(find_look(*brought, look)->name, std::string("Mist"));
        QVERIFY(parse_effect(effect_text(*brought), "x").problems.empty());
        QCOMPARE(find_link(*find_element(*brought, "gravity"), ids[0])->weight, 1.0f);
    }

    void elements_are_placed_beside_others_of_their_family() {
        Effect effect = starter_effect();
        std::string a, b, c;
        effect = with_new_element(effect, type("wind"), a);
        effect = with_new_element(effect, type("drag"), b);
        effect = with_new_element(effect, type("vortex"), c);
        effect = with_group(effect, {a}, "Air");
        const Effect placed = with_placed(effect, {c, "gravity", "ground"}, a, false);
        std::vector<std::string> ids;
        for (const Element& element : placed.elements) {
            ids.push_back(element.id);
        }
        QCOMPARE(ids, (std::vector<std::string>{"emitter", "gravity", c, a, b, "ground"}));
        QCOMPARE(find_element(placed, c)->group, std::string("Air"));
        QCOMPARE(find_element(placed, "ground")->group, std::string());
        // One step among those of its group: over what is in another one.
        const Effect up = with_moved(with_group(placed, {c}, ""), b, -1);
        QVERIFY(find_element(up, b) < find_element(up, c));
        QCOMPARE(with_moved(up, "ground", 1), up);
    }

    void a_modulator_of_ones_own_drives_nothing_else() {
        Effect effect = starter_effect();
        std::string cycle, own;
        effect = with_new_element(effect, type("cycle"), cycle);
        const Drive rate = {"emitter", "rate", 0, cycle, 1, 9, {}};
        effect = with_drive(with_drive(effect, rate), {"emitter", "spread", 0, cycle, 0, 90, {}});
        const Effect changed = with_own_modulator(effect, rate, own);
        QCOMPARE(find_drive(changed, "emitter", "rate", 0)->modulator, own);
        QCOMPARE(find_drive(changed, "emitter", "rate", 0)->high, 9.0f);
        QCOMPARE(find_drive(changed, "emitter", "spread", 0)->modulator, cycle);
    }

    void notes_go_with_what_they_are_about() {
        std::string id;
        Effect effect = with_note(starter_effect(), "emitter", "rate", "as in the big pan");
        effect = with_note(effect, "stage", "exposure", "for the dark hall");
        effect = with_note(effect, "emitter", "rate", "less in the small pan");
        QCOMPARE(effect.notes.size(), size_t(2));
        const Effect copied = with_duplicate(effect, "emitter", id);
        QCOMPARE(find_note(copied, id, "rate")->text, std::string("less in the small pan"));
        QVERIFY(find_note(without_element(copied, id), id, "rate") == nullptr);
        QVERIFY(find_note(with_note(effect, "stage", "exposure", ""), "stage", "exposure") == nullptr);
        const ReadResult read = parse_effect(effect_text(effect), "x");
        QVERIFY(read.problems.empty() && *read.effect == effect);
    }

    void bad_notes_in_a_file_are_said() {
        const std::string good = effect_text(with_note(starter_effect(), "emitter", "rate", "abc"));
        const auto problems = [&](const std::string& from, const std::string& to) {
            std::string text = good;
            text.replace(text.find(from), from.size(), to);
            const ReadResult read = parse_effect(text, "x");
            return read.effect->notes.empty() ? read.problems.size() : size_t(0);
        };
        QCOMPARE(problems("\"abc\"", "\"\""), size_t(1));
        QCOMPARE(problems("\"abc\"", "7"), size_t(2));
        QCOMPARE(problems("\"abc\"", "\"" + std::string(300, 'a') + "\""), size_t(2));
        QCOMPARE(problems("\"parameter\": \"rate\"", "\"parameter\": \"rats\""), size_t(1));
        QCOMPARE(problems("\"of\": \"emitter\"", "\"of\": \"nobody\""), size_t(1));
    }

    void more_than_the_budget_is_foreseen() {
        Effect effect = starter_effect();
        QVERIFY(!expected_over_budget(effect));
        effect.budget.particles = 700; // 400 a second that live for 2 s
        QVERIFY(expected_over_budget(effect)->find("about 800") == 0);
        effect = with_muted(effect, "emitter", true);
        QVERIFY(!expected_over_budget(effect));
    }

    void what_is_no_copied_element_is_not_pasted() {
        std::vector<std::string> ids;
        for (const char* text :
             {"", "[]", "{}", "hello", "{\"copied\": 3}", "{\"copied\": [\"nobody\", 3]}"}) {
            QVERIFY(!with_pasted(starter_effect(), text, ids));
        }
        QVERIFY(!with_pasted(starter_effect(), effect_text(starter_effect()), ids));
    }

    // Seeded: any row of edits is undone to the byte, and done again.
    void two_hundred_random_edits_are_undone_and_redone_exactly() {
        uint32_t state = 12345;
        const auto random = [&state](size_t count) {
            state = state * 1664525u + 1013904223u;
            return size_t(state >> 8) % count;
        };
        History history(std::make_shared<const Effect>(starter_effect()));
        std::vector<std::string> texts = {effect_text(*history.current())};
        while (texts.size() <= 200) {
            const Effect& effect = *history.current();
            const Element& element = effect.elements[random(effect.elements.size())];
            const auto types = element_types();
            std::string id;
            std::vector<std::string> ids;
            Effect edited = effect;
            switch (random(13)) {
            case 0:
                edited = with_new_element(effect, types[random(types.size())], id);
                break;
            case 1:
                edited = effect.elements.size() > 3 ? without_element(effect, element.id) : effect;
                break;
            case 2:
                edited = with_duplicate(effect, element.id, id);
                break;
            case 3:
                edited = with_moved(effect, element.id, random(2) == 0 ? -1 : 1);
                break;
            case 4:
                edited = with_muted(effect, element.id, !element.muted);
                break;
            case 5:
                edited = with_pasted(effect, copied_text(effect, {element.id}), ids).value_or(effect);
                break;
            case 9:
                edited = with_group(effect, {element.id}, random(2) == 0 ? "Air" : "");
                break;
            case 10:
                edited = with_placed(effect, {element.id}, effect.elements[random(effect.elements.size())].id,
                                     random(2) == 0);
                break;
            case 11:
                edited = with_note(effect, element.id, holder_of(element).parameters[0].key,
                                   random(4) == 0 ? "" : "note " + std::to_string(random(100)));
                break;
            case 12:
                if (!effect.drives.empty()) {
                    edited = with_own_modulator(effect, effect.drives[random(effect.drives.size())], id);
                }
                break;
            case 6:
                if (!element.links.empty()) {
                    edited = with_link(effect, element.id, element.links[0].source, float(random(100)) / 100);
                }
                break;
            default: {
                const auto parameters = type_of(element.body).parameters;
                const Parameter& parameter = parameters[random(parameters.size())];
                if (parameter.kind == ParameterKind::number) {
                    const double share = double(random(1000)) / 999;
                    edited = with_value(
                        effect, element.id, parameter,
                        float(parameter.soft_low + share * (parameter.soft_high - parameter.soft_low)));
                }
                break;
            }
            }
            if (edited == effect || whole_refusal(edited)) {
                continue;
            }
            history.push(std::make_shared<const Effect>(edited), "edit");
            texts.push_back(effect_text(edited));
        }
        for (size_t i = texts.size() - 1; i-- > 0;) {
            history.undo();
            QCOMPARE(effect_text(*history.current()), texts[i]);
        }
        QVERIFY(!history.can_undo());
        for (size_t i = 1; i < texts.size(); ++i) {
            history.redo();
            QCOMPARE(effect_text(*history.current()), texts[i]);
        }
        QVERIFY(parse_effect(texts.back(), "x").problems.empty());
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
