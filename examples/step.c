/* Steps an effect and prints what is alive. Usage: step EFFECT [SECONDS] */
#include <crisp-ember/crisp_ember.h>

#include <stdio.h>
#include <stdlib.h>
#include <string.h>

int main(int argc, char** argv) {
    char why[512];
    const double seconds = argc > 2 ? atof(argv[2]) : 2;
    ember_effect* effect = argc > 1 ? ember_open(argv[1], why, sizeof why) : NULL;
    if (effect == NULL) {
        fprintf(stderr, "%s\n", argc > 1 ? why : "usage: step EFFECT [SECONDS]");
        return 1;
    }
    ember_run* run = ember_start(effect);
    while (run != NULL && ember_time(run) < seconds) {
        ember_step(run);
    }
    for (size_t i = 0; run != NULL && i < ember_element_count(effect); ++i) {
        const char* id = ember_element_id(effect, i);
        double highest = 0;
        ember_block block;
        for (size_t b = 0; ember_get_block(run, id, b, &block); ++b) {
            for (size_t p = 0; p < block.count; ++p) {
                highest = block.y[p] > highest ? block.y[p] : highest;
            }
        }
        if (strcmp(ember_element_type(effect, i), "emitter") == 0) {
            printf("%s: %zu particles, up to %.2f m\n", id, ember_particle_count(run, id), highest);
        }
    }
    ember_stop(run);
    ember_close(effect);
    return 0;
}
