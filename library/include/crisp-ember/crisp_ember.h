/* Crisp Ember as a library: loads an effect and runs it in a program of your own. C99, no Qt, no OpenGL.
 *
 *     char why[512];
 *     ember_effect* effect = ember_open("spray.ember.json", why, sizeof why);
 *     ember_run* run = ember_start(effect);
 *     while (playing) {
 *         ember_step(run);
 *         for (size_t i = 0; i < ember_block_count(run, "spray"); ++i) {
 *             ember_block block;
 *             ember_get_block(run, "spray", i, &block);      // block.count particles, as plain arrays
 *         }
 *     }
 *     ember_stop(run);
 *     ember_close(effect);
 *
 * Units: metres, seconds, kilograms, kelvin above the air around; right-handed, y up; light is linear. A step
 * is a 60th of a second. The same effect, seed and inputs give the same bytes.
 *
 * Threads: an effect may be shared. A run belongs to one thread at a time; different runs may be used on
 * different threads at once. A step uses all cores through oneTBB. Pointers that a run hands out hold until
 * its next step, restore or stop. No call waits for another thread of yours, and none is to be made from a
 * signal handler.
 *
 * Functions that return int return 1 if they did what they say, else 0, and ember_why() says why. */
#ifndef CRISP_EMBER_H
#define CRISP_EMBER_H

#include <stddef.h>
#include <stdint.h>

#if defined(__GNUC__)
#define EMBER_API __attribute__((visibility("default")))
#else
#define EMBER_API
#endif

#ifdef __cplusplus
extern "C" {
#endif

/* Of this header. A library with another major number does not fit. */
#define EMBER_VERSION_MAJOR 1
#define EMBER_VERSION_MINOR 1

typedef struct ember_effect ember_effect;
typedef struct ember_run ember_run;
typedef struct ember_snapshot ember_snapshot;

/* Of the library: major * 1000 + minor. */
EMBER_API int ember_version(void);

/* --- effects --- */

/* Reads an effect and all that it names beside it. NULL, and why, if something is wrong with it. */
EMBER_API ember_effect* ember_open(const char* path, char* why, size_t why_bytes);
/* The same from memory; what it names lies in `folder`, which may be NULL if it names nothing. */
EMBER_API ember_effect* ember_open_text(const char* text, size_t bytes, const char* folder, char* why,
                                        size_t why_bytes);
/* A take: an effect with all that reached a run of it. `name`: which of the file; NULL: the last. A run of it
 * repeats that run, then goes on live. Since 1.1. */
EMBER_API ember_effect* ember_open_take(const char* path, const char* name, char* why, size_t why_bytes);
EMBER_API void ember_close(ember_effect* effect);

EMBER_API size_t ember_element_count(const ember_effect* effect);
/* NULL behind the last. */
EMBER_API const char* ember_element_id(const ember_effect* effect, size_t index);
/* "emitter", "smoke", "breakable", "wind" and so on, as in effect files. */
EMBER_API const char* ember_element_type(const ember_effect* effect, size_t index);

/* --- running --- */

/* At the end of the warm-up. NULL if there is not enough memory. The effect may be closed before the run. */
EMBER_API ember_run* ember_start(const ember_effect* effect);
EMBER_API void ember_stop(ember_run* run);
/* Back to the start, with another seed. */
EMBER_API int ember_restart(ember_run* run, uint32_t seed);

/* What has been refused last. */
EMBER_API const char* ember_why(const ember_run* run);

/* A number, count or switch (0 or 1) of an element, a look, "stage" or "budget", from the next step on.
 * Refused: ids and names that are not there, numbers out of their range, not a number. */
EMBER_API int ember_set_number(ember_run* run, const char* id, const char* parameter, double value);
EMBER_API int ember_get_number(const ember_run* run, const char* id, const char* parameter, double* value);
/* The same for a vector: where an element stands, the size of a box, what the camera looks at. Since 1.1. */
EMBER_API int ember_set_vector(ember_run* run, const char* id, const char* parameter, const float value[3]);
EMBER_API int ember_get_vector(const ember_run* run, const char* id, const char* parameter, float value[3]);
EMBER_API int ember_set_muted(ember_run* run, const char* id, int muted);
/* Where somebody points, as a line of sight; way of any length. Movers of the kind "pointer" follow it. */
EMBER_API void ember_point(ember_run* run, const float from[3], const float way[3]);
EMBER_API void ember_point_nowhere(ember_run* run);
/* For triggers: heard by the next step. Keys are 0 to 9. */
EMBER_API void ember_click(ember_run* run);
EMBER_API int ember_press(ember_run* run, int key);

/* Whether the next step is one of a take. Until it is over, or goes live here, what is set is refused, and
 * who points, clicks or presses is not heard. Since 1.1. */
EMBER_API int ember_is_repeating(const ember_run* run);
EMBER_API void ember_go_live(ember_run* run);

EMBER_API void ember_step(ember_run* run);
/* Since the end of the warm-up (s), and what the last step took (ms). */
EMBER_API double ember_time(const ember_run* run);
EMBER_API double ember_step_ms(const ember_run* run);

/* The keeper, as the effect's budget has it: tell what a whole frame of yours took, and so long after the one
 * before; from then on the effect gives way, or takes it back. Returns how much it gives, 0 to 1. */
EMBER_API double ember_frame_took(ember_run* run, double frame_ms, double elapsed_s);

/* --- what there is, without copying --- */

/* Particles of an emitter that follow one another in order of birth. Each array has `count` numbers. */
typedef struct ember_block {
    size_t count;
    const float *x, *y, *z;      /* m */
    const float *vx, *vy, *vz;   /* m/s */
    const float *age, *lifetime; /* s */
    const float* size;           /* m, at birth */
    const uint32_t* number;      /* the same as long as it lives */
} ember_block;
EMBER_API size_t ember_particle_count(const ember_run* run, const char* id);
EMBER_API size_t ember_block_count(const ember_run* run, const char* id);
EMBER_API int ember_get_block(const ember_run* run, const char* id, size_t index, ember_block* block);
/* How an emitter's look has particles at a share of their lives, 0 to 1: factor on the size at birth; linear
 * light with glow; opacity. */
EMBER_API int ember_look_at(const ember_run* run, const char* id, float share, float* size, float light[3],
                            float* opacity);

typedef struct ember_piece {
    float place[3];      /* m, of its own middle */
    float turn[4];       /* quaternion, x y z w */
    float size, opacity; /* 0 to 1 */
    uint32_t piece;      /* which of the cut: see ember_get_piece_mesh() */
    uint32_t number;     /* the same from step to step */
} ember_piece;
/* The pieces of a breakable. */
EMBER_API int ember_get_pieces(ember_run* run, const char* id, const ember_piece** pieces, size_t* count);
/* Corners (x y z) and normals about the piece's own middle; triangles as three corners each. The first
 * `outer_triangles` are of the outside, the others are faces that cutting laid open. */
typedef struct ember_mesh {
    size_t corners, triangles, outer_triangles;
    const float *places, *normals;
    const uint32_t* indices;
} ember_mesh;
EMBER_API int ember_get_piece_mesh(ember_run* run, const char* id, uint32_t piece, ember_mesh* mesh);

/* A volume of smoke. The cell (i, j, k) of x * y * z is the `stride_bytes` that begin at
 * cells + ((k * rows_y + j) * rows_x + i) * stride_bytes; its first two floats are density and heat (K). Its
 * middle is at low + (i + 0.5, j + 0.5, k + 0.5) * cell. */
typedef struct ember_smoke {
    int x, y, z;
    int rows_x, rows_y;
    float cell, low[3]; /* m */
    size_t stride_bytes;
    const unsigned char* cells;
} ember_smoke;
EMBER_API int ember_get_smoke(const ember_run* run, const char* id, ember_smoke* smoke);

/* What happened to pieces in the last step. */
enum ember_event_kind { EMBER_BROKE, EMBER_HIT, EMBER_CAME_TO_REST };
typedef struct ember_event {
    int kind;
    float place[3], velocity[3]; /* m, m/s */
    float strength;              /* of a hit, m/s; of a break, the area laid open, m^2 */
} ember_event;
EMBER_API int ember_get_events(ember_run* run, const char* id, const ember_event** events, size_t* count);

/* --- states --- */

/* All that the next steps depend on besides their inputs. What follows a restore is the same, to the byte, as
 * what followed the snapshot. NULL if there is not enough memory. */
EMBER_API ember_snapshot* ember_take_snapshot(const ember_run* run);
EMBER_API void ember_restore(ember_run* run, const ember_snapshot* snapshot);
EMBER_API void ember_free_snapshot(ember_snapshot* snapshot);

#ifdef __cplusplus
}
#endif

#endif
