// The same things (100,000 soft dots of 8 pixels, 50,000 streaks of 6 by 30, 50,000 textured cards of 12,
// 50,000 trails of six pieces, 5,000 lit bodies of 20 triangles), drawn into a 1280x800 picture of
// floating-point light: by our renderer, and by OpenGL on whatever driver is there (a software one on a
// machine without a GPU).
#include "bench/figures.h"
#include "bench/turns.h"

#include "core/textures/texture_maker.h"
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
constexpr Job cards = {Drawing::cards, bench_sprites / 2, 12, 0};
constexpr Job trails = {Drawing::trails, bench_sprites / 2, 4, 5};
constexpr Job bodies = {Drawing::meshes, bench_sprites / 20, 16, 0};
constexpr int trail_pieces = 6;

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
    for (int i = 0; i < job.count; ++i) {
        const Vec3 way = {std::cos(Job::angle(i)), std::sin(Job::angle(i)), 0};
        if (job.drawing == Drawing::trails) {
            source.trails.push_back(
                {uint32_t(source.trail_points.size()), trail_pieces + 1, 0, source.largest_size});
            Vec3 place = places[size_t(i)];
            for (int point = 0; point <= trail_pieces; ++point) {
                source.trail_points.push_back({place, float(point) / trail_pieces});
                place += Vec3{std::cos(Job::angle(i) + float(point) * 0.6f),
                              std::sin(Job::angle(i) + float(point) * 0.6f), 0} *
                         (job.way_px * pixel);
            }
        }
        source.numbers.push_back(uint32_t(i));
        if (job.drawing != Drawing::streaks) {
            continue;
        }
        source.fastest = job.way_px * pixel; // in a streak of a second
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
    effect.looks[0].width_along = effect.looks[0].opacity_along = {};
    if (job.drawing == Drawing::cards) {
        effect.looks[0].edge = 0;
        effect.looks[0].roll = {0, 360};
        effect.textures = {Texture()};
        effect.textures[0].id = effect.looks[0].layers[0].texture = "noise";
        effect.looks[0].layers[0].from = LayerFrom::texture;
    }
    effect.looks[0].mesh_set = MeshSet::pebbles;
    effect.looks[0].shine = 0;
    effect.stage.bloom = 0;
    return std::make_shared<const Effect>(std::move(effect));
}

class OurSprites {
  public:
    explicit OurSprites(const Job& job) : OurSprites(job, sprite_effect(job)) {}
    OurSprites(const Job& job, EffectPtr effect)
        : effect_(std::move(effect)), frame_(sprite_frame(effect_, job)) {
        do {
            seconds();
        } while (!renderer_.is_settled());
    }

    // As in the other program: sprites into light, without the tone curve.
    double seconds() {
        renderer_.draw(frame_, *effect_, camera_, width, height, picture_);
        return (renderer_.meters().stage_ms + renderer_.meters().dots_ms) / 1000;
    }
    double dots_seconds() {
        seconds();
        return renderer_.meters().dots_ms / 1000;
    }
    size_t drawn() const { return renderer_.meters().dots; }
    size_t triangles() const { return renderer_.meters().triangles; }

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

constexpr auto soft_shader = R"(#version 330
in vec2 at;
out vec4 light;
void main() { float root = clamp(1.0 - dot(at, at), 0.0, 1.0); light = vec4(0.5, 0.4, 0.3, 1.0) * (root * root); })";

constexpr auto ribbon_shader = R"(#version 330
in vec2 at;
out vec4 light;
void main() { float root = 1.0 - at.y * at.y; light = vec4(0.5, 0.4, 0.3, 1.0) * (root * root); })";

constexpr auto card_shader = R"(#version 330
in vec2 at;
uniform sampler2D image;
out vec4 light;
void main() { light = vec4(0.5, 0.4, 0.3, 1.0) * texture(image, at * 0.5 + 0.5); })";

// Corners are as many as a ball of 20 triangles has, turned by a quaternion.
constexpr auto body_vertex_shader = R"(#version 330
layout(location = 0) in vec3 corner;
layout(location = 1) in vec2 place;
layout(location = 2) in vec4 turn;
layout(location = 3) in vec3 normal;
uniform vec3 size;
flat out vec3 colour;
vec3 turned(vec3 v) { return v + 2.0 * cross(turn.xyz, cross(turn.xyz, v) + turn.w * v); }
void main() {
    vec3 n = turned(normal);
    float sun = max(dot(n, vec3(0.36, 0.48, 0.8)), 0.0);
    colour = vec3(0.5, 0.4, 0.3) * (vec3(0.1) + vec3(0.1, 0.12, 0.15) * (n.y * 0.5 + 0.5) + sun);
    gl_Position = vec4(vec3(place, 0.5) + turned(corner) * size, 1.0);
})";

constexpr auto body_fragment_shader = R"(#version 330
flat in vec3 colour;
out vec4 light;
void main() { light = vec4(colour, 1.0); })";

// Instanced quads (bodies: triangles), blended into 16-bit floats, with a depth test that all of them pass:
// what a careful OpenGL program does. It has everything where it is seen already; ours projects it in every
// picture.
class GlSprites {
  public:
    explicit GlSprites(const Job& job)
        : count_(job.drawing == Drawing::trails ? job.count * trail_pieces : job.count),
          is_body_(job.drawing == Drawing::meshes) {
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
        glClear(is_body_ ? GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT : GL_COLOR_BUFFER_BIT);
        glDrawArraysInstanced(is_body_ ? GL_TRIANGLES : GL_TRIANGLE_STRIP, 0, is_body_ ? 60 : 4, count_);
        glFinish();
    }

    // The mean light of the picture, to show that something was drawn.
    double mean_light() const {
        std::vector<float> pixels(size_t(width) * height * 4);
        glReadPixels(0, 0, width, height, GL_RGBA, GL_FLOAT, pixels.data());
        double sum = 0;
        for (size_t i = 0; i < pixels.size(); i += 4) {
            sum += double(pixels[i]);
        }
        return sum / (width * height);
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
        glEnable(GL_DEPTH_TEST);
        glClear(GL_DEPTH_BUFFER_BIT);
        if (is_body_) {
            glEnable(GL_CULL_FACE);
        } else {
            glEnable(GL_BLEND);
            glBlendFunc(GL_ONE, GL_ONE);
            glDepthMask(GL_FALSE);
        }
        const auto fragments = is_body_                         ? body_fragment_shader
                               : job.drawing == Drawing::cards  ? card_shader
                               : job.drawing == Drawing::trails ? ribbon_shader
                                                                : soft_shader;
        const GLuint program = glCreateProgram();
        glAttachShader(program,
                       compiled_shader(GL_VERTEX_SHADER, is_body_ ? body_vertex_shader : vertex_shader));
        glAttachShader(program, compiled_shader(GL_FRAGMENT_SHADER, fragments));
        glLinkProgram(program);
        glUseProgram(program);
        if (job.drawing == Drawing::cards) {
            load_texture();
        }

        std::vector<float> places;
        for (int i = 0; i < job.count; ++i) {
            const auto share = [i](double step) { return float(std::fmod(0.5 + step * i, 1.0)) * 2 - 1; };
            float x = share(0.7548776662466927), y = share(0.5698402909980532);
            const float along = job.size_px + job.way_px, across = job.size_px;
            for (int piece = 0; piece < count_ / job.count; ++piece) {
                const float angle = Job::angle(i) + 0.6f * float(piece);
                const float c = std::cos(angle), s = std::sin(angle);
                if (is_body_) {
                    places.insert(places.end(), {x, y, 0, std::sin(angle / 2), 0, std::cos(angle / 2)});
                } else {
                    places.insert(places.end(), {x, y, c * along / width, s * along / height,
                                                 -s * across / width, c * across / height});
                }
                x += c * job.way_px * 2 / width;
                y += s * job.way_px * 2 / height;
            }
        }
        std::vector<float> corners = {-1, -1, 1, -1, -1, 1, 1, 1};
        if (is_body_) {
            corners = body_corners();
            glUniform3f(glGetUniformLocation(program, "size"), job.size_px * 2 / width,
                        job.size_px * 2 / height, 0.001f);
        }
        glGenVertexArrays(1, &arrays);
        glBindVertexArray(arrays);
        glGenBuffers(2, buffers);
        glBindBuffer(GL_ARRAY_BUFFER, buffers[0]);
        glBufferData(GL_ARRAY_BUFFER, GLsizeiptr(corners.size() * sizeof(float)), corners.data(),
                     GL_STATIC_DRAW);
        if (is_body_) {
            glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, 6 * sizeof(float), nullptr);
            glVertexAttribPointer(3, 3, GL_FLOAT, GL_FALSE, 6 * sizeof(float),
                                  reinterpret_cast<const void*>(3 * sizeof(float)));
            glEnableVertexAttribArray(3);
        } else {
            glVertexAttribPointer(0, 2, GL_FLOAT, GL_FALSE, 0, nullptr);
        }
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

    // Place and normal of the corners of the same pebble as ours.
    static std::vector<float> body_corners() {
        std::vector<float> corners;
        const Body& body = ready_bodies(MeshSet::pebbles).front().front();
        for (const BodyFace& face : body.faces) {
            for (const uint32_t corner : face.corners) {
                const Vec3& p = body.corners[corner];
                corners.insert(corners.end(), {p.x, p.y, p.z, face.normal.x, face.normal.y, face.normal.z});
            }
        }
        return corners;
    }

    static void load_texture() {
        const Image image = made_texture(Texture(), 256, nullptr);
        std::vector<uint8_t> texels;
        for (const Colour& c : image.pixels) {
            for (const float part : {c.red, c.green, c.blue, c.alpha}) {
                texels.push_back(uint8_t(part * 255));
            }
        }
        GLuint name = 0;
        glGenTextures(1, &name);
        glBindTexture(GL_TEXTURE_2D, name);
        glTexImage2D(GL_TEXTURE_2D, 0, GL_RGBA8, 256, 256, 0, GL_RGBA, GL_UNSIGNED_BYTE, texels.data());
        glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_LINEAR_MIPMAP_NEAREST);
        glGenerateMipmap(GL_TEXTURE_2D);
    }

    int count_;
    bool is_body_;
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
    if (!(opengl.mean_light() > 0)) {
        state.SkipWithError("OpenGL has drawn nothing");
        return;
    }
    OurSprites ours(job);
    in_turns(
        state, [&] { return ours.seconds(); }, [&] { return seconds_of([&] { opengl.draw(); }); });
    state.SetLabel(opengl.driver());
    if (job.drawing == Drawing::meshes) {
        values()["triangles drawn"] = double(ours.triangles());
    } else if (job.drawing != Drawing::trails && job.drawing != Drawing::cards) {
        values()["sprites drawn of " + std::to_string(job.count)] = double(ours.drawn());
    }
}

// What a look costs, with `layers` coats.
void look_alone(benchmark::State& state, const Job& job, Blend blend, int layers) {
    Effect effect = *sprite_effect(job);
    Look& look = effect.looks[0];
    look.blend = blend;
    look.surface_cell = 0.1f;
    look.layers = {};
    effect.textures = {Texture()};
    effect.textures[0].id = "noise";
    for (int i = 0; i < layers; ++i) {
        look.layers[size_t(i)].from = LayerFrom::texture;
        look.layers[size_t(i)].texture = "noise";
    }
    OurSprites ours(job, std::make_shared<const Effect>(effect));
    for (auto _ : state) {
        state.SetIterationTime(ours.dots_seconds());
    }
}

constexpr int few = 20000;
struct LookJob {
    const char* name;
    Job job;
    Blend blend = Blend::add;
    int layers = 0;
};
const LookJob look_jobs[] = {
    {"dots that add", {Drawing::dots, few, 12, 0}},
    {"dots that cover", {Drawing::dots, few, 12, 0}, Blend::over},
    {"streaks of 12 by 24 px", {Drawing::streaks, few, 12, 12}},
    {"trails of six pieces", {Drawing::trails, few, 12, 5}},
    {"cards", {Drawing::cards, few, 12, 0}},
    {"cards with a layer", {Drawing::cards, few, 12, 0}, Blend::add, 1},
    {"cards with three layers", {Drawing::cards, few, 12, 0}, Blend::add, 3},
    {"cards that are cut out, with a layer", {Drawing::cards, few, 12, 0}, Blend::cut_out, 1},
    {"meshes of 20 triangles", {Drawing::meshes, few, 12, 0}},
    {"meshes of 20 triangles with a layer", {Drawing::meshes, few, 12, 0}, Blend::add, 1},
    {"a surface round 500 of 60 px", {Drawing::surface, 500, 60, 0}},
};

} // namespace

std::vector<std::string>& look_names() {
    static std::vector<std::string> names;
    return names;
}

void register_sprites() {
    for (const LookJob& each : look_jobs) {
        look_names().push_back(each.name);
        benchmark::RegisterBenchmark(("look/" + std::string(each.name)).c_str(), look_alone, each.job,
                                     each.blend, each.layers)
            ->Unit(benchmark::kMillisecond)
            ->UseManualTime();
    }
    for (const auto& [name, job] : {std::pair("P4", &dots),
                                    {"P4 streaks", &streaks},
                                    {"P4 cards", &cards},
                                    {"P4 trails", &trails},
                                    {"P4 bodies", &bodies}}) {
        benchmark::RegisterBenchmark(name, sprites_against_opengl, *job)
            ->Unit(benchmark::kMillisecond)
            ->UseManualTime();
    }
}

} // namespace ember::bench
