/* Draws a live effect in a loop of its own, with SDL2 and OpenGL; the mouse stirs it, clicks and digits reach
 * its triggers. Usage: stir EFFECT [FRAMES PICTURE.ppm]
 *
 * With FRAMES the pointer goes round by itself, and the last frame is saved. */
#include <crisp-ember/crisp_ember.h>

#include <SDL.h>
#include <SDL_opengl.h>

#include <math.h>
#include <stdio.h>
#include <stdlib.h>
#include <string.h>

enum { width = 960, height = 540, shades = 32 };

static float eye[3], right[3], up[3], ahead[3]; /* of the camera */
static float opening;                           /* tangent of half its field of view */

/* As the effect has it: round a target, by angles. */
static void read_camera(ember_run* run) {
    double distance = 7, azimuth = 20, above = 12, field = 40;
    float target[3] = {0, 1, 0};
    ember_get_vector(run, "stage", "camera_target", target);
    ember_get_number(run, "stage", "camera_distance", &distance);
    ember_get_number(run, "stage", "camera_azimuth", &azimuth);
    ember_get_number(run, "stage", "camera_height", &above);
    ember_get_number(run, "stage", "field_of_view", &field);
    const double a = azimuth * 3.14159265 / 180, h = above * 3.14159265 / 180;
    const float out[3] = {(float)(sin(a) * cos(h)), (float)sin(h), (float)(cos(a) * cos(h))};
    const float side[3] = {(float)cos(a), 0, (float)-sin(a)};
    for (int i = 0; i < 3; ++i) {
        eye[i] = target[i] + (float)distance * out[i];
        ahead[i] = -out[i];
        right[i] = side[i];
    }
    up[0] = right[1] * ahead[2] - right[2] * ahead[1];
    up[1] = right[2] * ahead[0] - right[0] * ahead[2];
    up[2] = right[0] * ahead[1] - right[1] * ahead[0];
    opening = (float)tan(field * 3.14159265 / 360);
}

static void point_at(ember_run* run, float x, float y) {
    float way[3];
    for (int i = 0; i < 3; ++i) {
        way[i] = ahead[i] + right[i] * (2 * x / width - 1) * opening * width / height +
                 up[i] * (1 - 2 * y / height) * opening;
    }
    ember_point(run, eye, way);
}

/* A soft round dot. */
static void make_dot(void) {
    static unsigned char dot[32 * 32];
    for (int i = 0; i < 32 * 32; ++i) {
        const float x = (float)(i % 32) / 15.5f - 1, y = (float)(i / 32) / 15.5f - 1;
        const float light = 1 - x * x - y * y;
        dot[i] = (unsigned char)(light > 0 ? 255 * light * light : 0);
    }
    glTexImage2D(GL_TEXTURE_2D, 0, GL_LUMINANCE, 32, 32, 0, GL_LUMINANCE, GL_UNSIGNED_BYTE, dot);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
    glEnable(GL_TEXTURE_2D);
    glEnable(GL_BLEND);
    glBlendFunc(GL_ONE, GL_ONE);
}

static void draw_emitter(const ember_run* run, const char* id) {
    static const float corners[4][2] = {{-1, -1}, {1, -1}, {1, 1}, {-1, 1}};
    float sizes[shades], lights[shades][3], opacity;
    for (int i = 0; i < shades; ++i) {
        if (!ember_look_at(run, id, (float)i / (shades - 1), &sizes[i], lights[i], &opacity)) {
            return;
        }
        for (int c = 0; c < 3; ++c) {
            lights[i][c] *= opacity;
        }
    }
    ember_block block;
    glBegin(GL_QUADS);
    for (size_t b = 0; ember_get_block(run, id, b, &block); ++b) {
        for (size_t p = 0; p < block.count; ++p) {
            const float share = block.age[p] / block.lifetime[p];
            const int shade = share < 1 ? (int)(share * (shades - 1)) : shades - 1;
            const float half = block.size[p] * sizes[shade];
            glColor3fv(lights[shade]);
            for (int c = 0; c < 4; ++c) {
                const float x = corners[c][0] * half, y = corners[c][1] * half;
                glTexCoord2f(corners[c][0] / 2 + 0.5f, corners[c][1] / 2 + 0.5f);
                glVertex3f(block.x[p] + right[0] * x + up[0] * y, block.y[p] + right[1] * x + up[1] * y,
                           block.z[p] + right[2] * x + up[2] * y);
            }
        }
    }
    glEnd();
}

static void draw(const ember_effect* effect, const ember_run* run) {
    const float turn[16] = {right[0], up[0], -ahead[0], 0, right[1], up[1], -ahead[1], 0,
                            right[2], up[2], -ahead[2], 0, 0,        0,     0,         1};
    const double nearest = 0.05, top = nearest * opening, side = top * width / height;
    glClear(GL_COLOR_BUFFER_BIT);
    glMatrixMode(GL_PROJECTION);
    glLoadIdentity();
    glFrustum(-side, side, -top, top, nearest, 1000);
    glMatrixMode(GL_MODELVIEW);
    glLoadMatrixf(turn);
    glTranslatef(-eye[0], -eye[1], -eye[2]);
    for (size_t i = 0; i < ember_element_count(effect); ++i) {
        if (strcmp(ember_element_type(effect, i), "emitter") == 0) {
            draw_emitter(run, ember_element_id(effect, i));
        }
    }
}

static int save(const char* path) {
    static unsigned char pixels[height][width][3];
    FILE* file = fopen(path, "wb");
    glPixelStorei(GL_PACK_ALIGNMENT, 1);
    glReadPixels(0, 0, width, height, GL_RGB, GL_UNSIGNED_BYTE, pixels);
    if (file == NULL) {
        fprintf(stderr, "%s: cannot be written\n", path);
        return 0;
    }
    fprintf(file, "P6 %d %d 255\n", width, height);
    for (int y = height - 1; y >= 0; --y) { /* OpenGL's first row is the lowest */
        fwrite(pixels[y], 1, sizeof pixels[y], file);
    }
    return fclose(file) == 0;
}

/* What the host's user does. 0 if that is to leave. */
static int hear(ember_run* run) {
    SDL_Event event;
    while (SDL_PollEvent(&event)) {
        const int digit = event.type == SDL_KEYDOWN ? event.key.keysym.sym - SDLK_0 : -1;
        if (event.type == SDL_QUIT || digit == SDLK_ESCAPE - SDLK_0) {
            return 0;
        }
        if (event.type == SDL_MOUSEMOTION) {
            point_at(run, (float)event.motion.x, (float)event.motion.y);
        } else if (event.type == SDL_MOUSEBUTTONDOWN) {
            ember_click(run);
        } else if (digit >= 0 && digit <= 9) {
            ember_press(run, digit);
        }
    }
    return 1;
}

int main(int argc, char** argv) {
    char why[512] = "usage: stir EFFECT [FRAMES PICTURE.ppm]";
    ember_effect* effect = argc == 2 || argc == 4 ? ember_open(argv[1], why, sizeof why) : NULL;
    if (effect == NULL) {
        fprintf(stderr, "%s\n", why);
        return 1;
    }
    const long frames = argc == 4 ? atol(argv[2]) : 0;
    SDL_Window* window = SDL_Init(SDL_INIT_VIDEO) == 0
                             ? SDL_CreateWindow("Stir", SDL_WINDOWPOS_CENTERED, SDL_WINDOWPOS_CENTERED, width,
                                                height, SDL_WINDOW_OPENGL)
                             : NULL;
    SDL_GLContext context = window != NULL ? SDL_GL_CreateContext(window) : NULL;
    ember_run* run = context != NULL ? ember_start(effect) : NULL;
    if (run == NULL) {
        fprintf(stderr, "no window with OpenGL: %s\n", SDL_GetError());
        ember_close(effect);
        return 2;
    }
    make_dot();
    int saved = 1;
    Uint32 due = SDL_GetTicks();
    for (long frame = 0; hear(run) && (frames == 0 || frame < frames); ++frame) {
        read_camera(run);
        if (frames > 0) {
            point_at(run, width * (0.5f + 0.2f * cosf((float)frame / 20)),
                     height * (0.5f + 0.2f * sinf((float)frame / 20)));
        }
        /* A step is a 60th of a second, whatever the screen does; what is late is left out. */
        for (int steps = 0; frames > 0 ? steps == 0 : SDL_GetTicks() >= due && steps < 3; ++steps) {
            ember_step(run);
            due += 1000 / 60;
        }
        if (SDL_GetTicks() > due + 100) {
            due = SDL_GetTicks();
        }
        draw(effect, run);
        if (frame + 1 == frames) {
            saved = save(argv[3]);
        }
        SDL_GL_SwapWindow(window);
    }
    ember_stop(run);
    ember_close(effect);
    SDL_GL_DeleteContext(context);
    SDL_DestroyWindow(window);
    SDL_Quit();
    return saved ? 0 : 2;
}
