// The same soft sprites (100,000 dots of 8 pixels, or 50,000 streaks of 6 by 30), added to a 1280x800 picture
// of floating-point light: by our renderer, and by OpenGL on whatever driver is there (a software one on a
// machine without a GPU).
#include "bench/figures.h"
#include "bench/turns.h"

#include "render/renderer.h"

#include <epoxy/egl.h>
#include <epoxy/gl.h>

#include <benchmark/benchmark.h>

#include <cmath>
#include <string>
#include <vector>

namespace ember::bench {

namespace {

constexpr int width = 1280;
constexpr int height = 800;
constexpr float distance_m = 10;
constexpr float field_of_view = 40;

struct Job {
    Drawing drawing;
    int count;
    float size_px, way_px; // across, and drawn out by

    // The direction of a streak, evenly all round.
    static float angle(int i) { return 2.3999632f * float(i); }
};
constexpr Job dots = {Drawing::dots, bench_sprites, 8, 0};
constexpr Job streaks = {Drawing::streaks, bench_sprites / 2, 6, 24};

// A frame whose particles fill the picture evenly, all at one distance.
Frame sprite_frame(const EffectPtr& effect, const Job& job) {
    Frame frame;
    frame.effect = effect;
    frame.sources.resize(1);
    const float half_height = distance_m * std::tan(field_of_view * 3.14159265f / 360);
    const float pixel = 2 * half_height / height;
    frame.sources[0].largest_size = job.size_px * pixel;
    std::vector<Vec3> places;
    for (int i = 0; i < job.count; ++i) {
        const auto share = [i](double step) { return float(std::fmod(0.5 + step * i, 1.0)) * 2 - 1; };
        places.emplace_back(share(0.7548776662466927) * half_height * width / height,
                            share(0.5698402909980532) * half_height, 0.0f);
    }
    FrameSource& source = frame.sources[0];
    source.add(places, 0, source.largest_size);
    for (int i = 0; i < job.count && job.way_px > 0; ++i) {
        source.fastest = job.way_px * pixel; // in a streak of a second
        const Vec3 way = {std::cos(Job::angle(i)), std::sin(Job::angle(i)), 0};
        source.motions.push_back(FrameMotion::of(way * source.fastest, source.fastest));
    }
    return frame;
}

EffectPtr sprite_effect(const Job& job) {
    Effect effect = starter_effect();
    effect.elements.resize(1);
    effect.looks[0].size_over_life.points = {{0, 1}};
    effect.looks[0].colour_over_life.stops = {{0, {0.5f, 0.4f, 0.3f, 1}}};
    effect.looks[0].drawn_as = job.drawing;
    effect.looks[0].streak = 1;
    effect.stage.bloom = 0;
    return std::make_shared<const Effect>(std::move(effect));
}

class OurSprites {
  public:
    explicit OurSprites(const Job& job) : effect_(sprite_effect(job)), frame_(sprite_frame(effect_, job)) {
        do {
            seconds();
        } while (!renderer_.is_settled());
    }

    // As in the other program: sprites into light, without the tone curve.
    double seconds() {
        renderer_.draw(frame_, *effect_, camera_, width, height, picture_);
        return (renderer_.meters().stage_ms + renderer_.meters().dots_ms) / 1000;
    }
    size_t drawn() const { return renderer_.meters().dots; }

  private:
    const EffectPtr effect_;
    const Frame frame_;
    const Camera camera_ = {{0, 0, 0}, distance_m, 0, 0, field_of_view};
    Renderer renderer_;
    Picture picture_;
};

GLuint compiled_shader(GLenum kind, const char* text) {
    const GLuint shader = glCreateShader(kind);
    glShaderSource(shader, 1, &text, nullptr);
    glCompileShader(shader);
    return shader;
}

constexpr auto vertex_shader = R"(#version 330
layout(location = 0) in vec2 corner;
layout(location = 1) in vec2 place;
layout(location = 2) in vec4 axes; // half, in the picture's units
out vec2 at;
void main() { at = corner; gl_Position = vec4(place + corner.x * axes.xy + corner.y * axes.zw, 0.5, 1.0); })";

constexpr auto fragment_shader = R"(#version 330
in vec2 at;
out vec4 light;
void main() { float root = clamp(1.0 - dot(at, at), 0.0, 1.0); light = vec4(0.5, 0.4, 0.3, 1.0) * (root * root); })";

// Instanced quads, blended into 16-bit floats, with a depth test that all of them pass: what a careful OpenGL
// program does.
class GlSprites {
  public:
    explicit GlSprites(const Job& job) : count_(job.count) {
        const EGLDisplay display =
            eglGetPlatformDisplayEXT(EGL_PLATFORM_SURFACELESS_MESA, EGL_DEFAULT_DISPLAY, nullptr);
        EGLint config_count = 0;
        EGLConfig config = nullptr;
        const EGLint wanted[] = {EGL_SURFACE_TYPE, EGL_PBUFFER_BIT, EGL_RENDERABLE_TYPE, EGL_OPENGL_BIT,
                                 EGL_NONE};
        if (!eglInitialize(display, nullptr, nullptr) || !eglBindAPI(EGL_OPENGL_API) ||
            !eglChooseConfig(display, wanted, &config, 1, &config_count)) {
            return;
        }
        const EGLint version[] = {EGL_CONTEXT_MAJOR_VERSION, 3, EGL_CONTEXT_MINOR_VERSION, 3, EGL_NONE};
        const EGLContext context = eglCreateContext(display, config, EGL_NO_CONTEXT, version);
        ready_ =
            context != EGL_NO_CONTEXT && eglMakeCurrent(display, EGL_NO_SURFACE, EGL_NO_SURFACE, context);
        if (ready_) {
            set_up(job);
        }
    }

    bool ready() const { return ready_; }
    std::string driver() const { return reinterpret_cast<const char*>(glGetString(GL_RENDERER)); }

    void draw() const {
        glClear(GL_COLOR_BUFFER_BIT);
        glDrawArraysInstanced(GL_TRIANGLE_STRIP, 0, 4, count_);
        glFinish();
    }

    // Light in the middle of the picture, to show that something was drawn.
    float light_in_the_middle() const {
        float pixel[4] = {};
        glReadPixels(width / 2, height / 2, 1, 1, GL_RGBA, GL_FLOAT, pixel);
        return pixel[0];
    }

  private:
    void set_up(const Job& job) {
        GLuint names[2], frame = 0, buffers[2], arrays = 0;
        glGenRenderbuffers(2, names);
        glBindRenderbuffer(GL_RENDERBUFFER, names[0]);
        glRenderbufferStorage(GL_RENDERBUFFER, GL_RGBA16F, width, height);
        glBindRenderbuffer(GL_RENDERBUFFER, names[1]);
        glRenderbufferStorage(GL_RENDERBUFFER, GL_DEPTH_COMPONENT24, width, height);
        glGenFramebuffers(1, &frame);
        glBindFramebuffer(GL_FRAMEBUFFER, frame);
        glFramebufferRenderbuffer(GL_FRAMEBUFFER, GL_COLOR_ATTACHMENT0, GL_RENDERBUFFER, names[0]);
        glFramebufferRenderbuffer(GL_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_RENDERBUFFER, names[1]);
        glViewport(0, 0, width, height);
        glEnable(GL_BLEND);
        glBlendFunc(GL_ONE, GL_ONE);
        glEnable(GL_DEPTH_TEST);
        glClear(GL_DEPTH_BUFFER_BIT);
        glDepthMask(GL_FALSE);

        const GLuint program = glCreateProgram();
        glAttachShader(program, compiled_shader(GL_VERTEX_SHADER, vertex_shader));
        glAttachShader(program, compiled_shader(GL_FRAGMENT_SHADER, fragment_shader));
        glLinkProgram(program);
        glUseProgram(program);

        std::vector<float> places;
        for (int i = 0; i < job.count; ++i) {
            for (const double step : {0.7548776662466927, 0.5698402909980532}) {
                places.push_back(float(std::fmod(0.5 + step * i, 1.0)) * 2 - 1);
            }
            const float c = std::cos(Job::angle(i)), s = std::sin(Job::angle(i));
            const float along = job.size_px + job.way_px, across = job.size_px;
            places.insert(places.end(),
                          {c * along / width, s * along / height, -s * across / width, c * across / height});
        }
        const float corners[] = {-1, -1, 1, -1, -1, 1, 1, 1};
        glGenVertexArrays(1, &arrays);
        glBindVertexArray(arrays);
        glGenBuffers(2, buffers);
        glBindBuffer(GL_ARRAY_BUFFER, buffers[0]);
        glBufferData(GL_ARRAY_BUFFER, sizeof corners, corners, GL_STATIC_DRAW);
        glVertexAttribPointer(0, 2, GL_FLOAT, GL_FALSE, 0, nullptr);
        glEnableVertexAttribArray(0);
        glBindBuffer(GL_ARRAY_BUFFER, buffers[1]);
        glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(places.size() * sizeof(float)), places.data(),
                     GL_STATIC_DRAW);
        constexpr GLsizei stride = 6 * sizeof(float);
        glVertexAttribPointer(1, 2, GL_FLOAT, GL_FALSE, stride, nullptr);
        glVertexAttribPointer(2, 4, GL_FLOAT, GL_FALSE, stride,
                              reinterpret_cast<const void*>(2 * sizeof(float)));
        for (const GLuint per_sprite : {1u, 2u}) {
            glEnableVertexAttribArray(per_sprite);
            glVertexAttribDivisor(per_sprite, 1);
        }
    }

    int count_;
    bool ready_ = false;
};

// P4.
void sprites_against_opengl(benchmark::State& state, const Job& job) {
    const GlSprites opengl(job);
    if (!opengl.ready()) {
        state.SkipWithError("no EGL surfaceless context");
        return;
    }
    opengl.draw();
    if (!(opengl.light_in_the_middle() > 0)) {
        state.SkipWithError("OpenGL has drawn nothing");
        return;
    }
    OurSprites ours(job);
    in_turns(
        state, [&] { return ours.seconds(); }, [&] { return seconds_of([&] { opengl.draw(); }); });
    state.SetLabel(opengl.driver());
    values()["sprites drawn of " + std::to_string(job.count)] = double(ours.drawn());
}

} // namespace

void register_sprites() {
    for (const auto& [name, job] : {std::pair("P4", &dots), {"P4 streaks", &streaks}}) {
        benchmark::RegisterBenchmark(name, sprites_against_opengl, *job)
            ->Unit(benchmark::kMillisecond)
            ->UseManualTime();
    }
}

} // namespace ember::bench
