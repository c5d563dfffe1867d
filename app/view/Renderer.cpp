#include "view/Renderer.h"
#include <QImage>
#include <QOpenGLContext>
#include <algorithm>
#include <cstddef>
#include <utility>

namespace gyre {

namespace {

constexpr const char* kMeshVertex = R"(#version 330 core
layout(location=0) in vec3 position; layout(location=1) in vec3 normal;
uniform mat4 model, view, projection; uniform vec4 section; out vec3 n; out vec3 p;
void main(){ vec4 v = view * model * vec4(position,1); p = v.xyz; gl_ClipDistance[0] = dot(section, v); n = mat3(view*model)*normal; gl_Position = projection*v; })";
// Matte clay: a key light from the upper left, a soft fill from the right, a little light from below.
constexpr const char* kMeshFragment = R"(#version 330 core
in vec3 n; in vec3 p; uniform vec4 colour; uniform bool open; out vec4 result;
float shade(vec3 m, float key);
void main(){ vec3 m = normalize(n); if (dot(m, p) > 0.0) m = -m; bool inner = open && !gl_FrontFacing;
 float key = shade(m, max(dot(m, normalize(vec3(-0.45,0.75,0.60))),0.0));
 float fill = max(dot(m, normalize(vec3(0.8,0.15,0.5))),0.0);
 float rim = pow(1.0 - max(dot(m, normalize(-p)),0.0), 3.0);
 float light = 0.60 + 0.42*key + 0.14*fill - 0.08*rim;
 result = vec4(min(colour.rgb*(inner ? 0.72 : 1.0)*light, vec3(1)), colour.a); })";
// Without shadows a program of its own: a software renderer would do the looks at the map all the same.
constexpr const char* kOpenFragment = R"(#version 330 core
float shade(vec3 m, float key){ return key; })";
constexpr const char* kShadedFragment = R"(#version 330 core
in vec3 p; uniform mat4 toLight; uniform float texel; uniform sampler2DShadow shadow;
// How much of the key light arrives: four looks at the map around the place, each blended between four of its points.
float seen(vec3 m){ vec4 s = toLight*vec4(p + m*texel*1.6, 1); if (any(lessThan(s.xyz, vec3(0))) || any(greaterThan(s.xyz, vec3(1)))) return 1.0;
 float d = 1.2/float(textureSize(shadow,0).x), sum = 0.0;
 for (int i = 0; i < 4; ++i) sum += texture(shadow, vec3(s.xy + d*vec2((i & 1)*2 - 1, (i & 2) - 1), s.z));
 return 0.25*sum; }
// What is hardly lit at all would show the map's own grain.
float shade(vec3 m, float key){ return key > 0.0 ? key*mix(0.12, 1.0, mix(1.0, seen(m), smoothstep(0.04, 0.25, key))) : key; })";
// What the key light sees: how far away it is.
constexpr const char* kCastVertex = R"(#version 330 core
layout(location=0) in vec3 position; uniform mat4 model, eye, flatten; uniform vec4 section;
void main(){ vec4 v = eye*model*vec4(position,1); gl_ClipDistance[0] = dot(section, v); gl_Position = flatten*v; })";
constexpr const char* kCastFragment = R"(#version 330 core
void main(){})";
constexpr int kShadowPixels = 1024;
const QVector3D kKeyLight(-0.45f, 0.75f, 0.60f);
constexpr const char* kLineVertex = R"(#version 330 core
layout(location=0) in vec3 from; layout(location=1) in vec3 to; layout(location=2) in vec4 tint;
uniform mat4 transform, eye; uniform vec4 section; uniform vec2 pixels; uniform float width, lift; out vec4 colour;
void main(){ vec4 a = transform*vec4(from,1), b = transform*vec4(to,1);
 vec2 sa = a.xy/a.w*pixels, sb = b.xy/b.w*pixels, d = sb-sa; float l = length(d);
 d = l > 1e-4 ? d/l : vec2(1,0); vec2 side = vec2(-d.y,d.x);
 bool end = (gl_VertexID & 1) == 1; gl_ClipDistance[0] = dot(section, eye*vec4(end ? to : from,1)); float s = (gl_VertexID & 2) == 2 ? 1.0 : -1.0;
 vec4 c = end ? b : a; vec2 shift = (side*s + (end ? d : -d)*0.35)*width; c.xy += shift/pixels*c.w; c.z -= lift*c.w;
 gl_Position = c; colour = tint; })";
constexpr const char* kLineFragment = R"(#version 330 core
in vec4 colour; uniform float alpha; out vec4 result; void main(){ result = vec4(colour.rgb, colour.a*alpha); })";
constexpr const char* kBackVertex = R"(#version 330 core
out float t; void main(){ vec2 p = vec2((gl_VertexID&1)*4-1, (gl_VertexID&2)*2-1); t = p.y*0.5+0.5; gl_Position = vec4(p,0.9999,1); })";
constexpr const char* kBackFragment = R"(#version 330 core
in float t; uniform vec3 top, bottom; out vec4 result; void main(){ result = vec4(mix(bottom, top, clamp(t,0,1)),1); })";

QVector3D rgb(const QColor& c) { return {float(c.redF()), float(c.greenF()), float(c.blueF())}; }

} // namespace

QSurfaceFormat Renderer::surfaceFormat() {
    QSurfaceFormat format;
    format.setVersion(3, 3);
    format.setProfile(QSurfaceFormat::CoreProfile);
    format.setDepthBufferSize(24);
    return format;
}

bool Renderer::initialise(QString& why) {
    if (!initializeOpenGLFunctions()) {
        why = QStringLiteral("OpenGL 3.3 is not to be had on this display");
        return false;
    }
    const auto build = [&](QOpenGLShaderProgram& p, const char* v, const char* f, const char* more = nullptr) {
        if (p.addShaderFromSourceCode(QOpenGLShader::Vertex, v) && p.addShaderFromSourceCode(QOpenGLShader::Fragment, f) &&
            (!more || p.addShaderFromSourceCode(QOpenGLShader::Fragment, more)) && p.link())
            return true;
        why = p.log();
        return false;
    };
    return build(m_open, kMeshVertex, kMeshFragment, kOpenFragment) && build(m_shadedMesh, kMeshVertex, kMeshFragment, kShadedFragment) &&
           build(m_line, kLineVertex, kLineFragment) && build(m_back, kBackVertex, kBackFragment) && build(m_cast, kCastVertex, kCastFragment) && m_empty.create();
}

bool Renderer::inSoftware() {
    const auto* name = reinterpret_cast<const char*>(glGetString(GL_RENDERER));
    const QString text = QString::fromLatin1(name ? name : "");
    return text.contains("llvmpipe") || text.contains("softpipe") || text.contains("software", Qt::CaseInsensitive);
}

void Renderer::copy(GLuint from, GLuint to, const QSize& pixels) {
    glBindFramebuffer(GL_READ_FRAMEBUFFER, from);
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, to);
    glBlitFramebuffer(0, 0, pixels.width(), pixels.height(), 0, 0, pixels.width(), pixels.height(), GL_COLOR_BUFFER_BIT, GL_NEAREST);
    glBindFramebuffer(GL_FRAMEBUFFER, to);
}

QImage Renderer::read(const QSize& pixels) {
    QImage image(pixels, QImage::Format_RGB32);
    glPixelStorei(GL_PACK_ALIGNMENT, 4);
    glReadPixels(0, 0, pixels.width(), pixels.height(), GL_BGRA, GL_UNSIGNED_INT_8_8_8_8_REV, image.bits());
    image.mirror();
    return image;
}

OnGpu::~OnGpu() {
    if (!leftovers) return;
    const std::lock_guard guard(leftovers->lock);
    leftovers->arrays.push_back(array);
    leftovers->buffers.push_back(data);
    if (order) leftovers->buffers.push_back(order);
}

void Renderer::Mesh::layOut() {
    const auto held = std::exchange(source, nullptr);
    const TriangleMesh& mesh = *held;
    const auto vertex = [&](const Vec3& p, const Vec3& n) {
        for (int k = 0; k < 3; ++k) vertices.push_back(static_cast<float>(p[k]));
        for (int k = 0; k < 3; ++k) vertices.push_back(static_cast<float>(n[k]));
    };
    const bool smooth = !mesh.normals.empty();
    vertices.reserve(6 * (smooth ? mesh.points.size() : 3 * mesh.triangles.size()));
    order.reserve(3 * mesh.triangles.size());
    if (smooth)
        for (std::size_t i = 0; i < mesh.points.size(); ++i) vertex(mesh.points[i], mesh.normals[i]);
    // Triangles by face, so that a face is one range.
    std::vector<std::uint32_t> byFace(mesh.triangles.size());
    for (std::uint32_t i = 0; i < byFace.size(); ++i) byFace[i] = i;
    if (!mesh.faces.empty()) std::stable_sort(byFace.begin(), byFace.end(), [&](auto a, auto b) { return mesh.faces[a] < mesh.faces[b]; });
    for (const auto t : byFace) {
        if (!mesh.faces.empty()) {
            const auto f = static_cast<std::size_t>(mesh.faces[t]);
            if (faceRange.size() <= f) faceRange.resize(f + 1, {0, 0});
            if (faceRange[f].second == 0) faceRange[f].first = static_cast<int>(order.size());
            faceRange[f].second += 3;
        }
        const auto& ids = mesh.triangles[t];
        const Vec3 flat = (mesh.points[ids[1]] - mesh.points[ids[0]]).cross(mesh.points[ids[2]] - mesh.points[ids[0]]).normalized();
        for (const auto i : ids) {
            order.push_back(smooth ? i : static_cast<std::uint32_t>(order.size()));
            if (!smooth) vertex(mesh.points[i], flat);
        }
    }
    corners = static_cast<int>(order.size());
    const Box box = mesh.bounds();
    if (box.empty()) return;
    const Vec3 c = box.centre();
    middle = {static_cast<float>(c.x()), static_cast<float>(c.y()), static_cast<float>(c.z())};
    radius = static_cast<float>(0.5 * box.diagonal());
}

void Renderer::make(Mesh& mesh) {
    mesh.layOut();
    mesh.gpu.leftovers = m_leftovers;
    glGenVertexArrays(1, &mesh.gpu.array);
    glBindVertexArray(mesh.gpu.array);
    glGenBuffers(1, &mesh.gpu.order);
    glBindBuffer(GL_ELEMENT_ARRAY_BUFFER, mesh.gpu.order);
    glBufferData(GL_ELEMENT_ARRAY_BUFFER, static_cast<GLsizeiptr>(mesh.order.size() * sizeof(std::uint32_t)), mesh.order.data(), GL_STATIC_DRAW);
    glGenBuffers(1, &mesh.gpu.data);
    glBindBuffer(GL_ARRAY_BUFFER, mesh.gpu.data);
    glBufferData(GL_ARRAY_BUFFER, static_cast<GLsizeiptr>(mesh.vertices.size() * sizeof(float)), mesh.vertices.data(), GL_STATIC_DRAW);
    glEnableVertexAttribArray(0);
    glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, 24, nullptr);
    glEnableVertexAttribArray(1);
    glVertexAttribPointer(1, 3, GL_FLOAT, GL_FALSE, 24, reinterpret_cast<void*>(12));
    mesh.vertices = {};
    mesh.order = {};
}

void Renderer::make(Lines& lines) {
    lines.gpu.leftovers = m_leftovers;
    glGenVertexArrays(1, &lines.gpu.array);
    glGenBuffers(1, &lines.gpu.data);
    glBindBuffer(GL_ARRAY_BUFFER, lines.gpu.data);
    glBufferData(GL_ARRAY_BUFFER, static_cast<GLsizeiptr>(lines.waiting.size() * sizeof(Segment)), lines.waiting.data(), GL_STATIC_DRAW);
    lines.waiting = {};
}

std::vector<Renderer::Segment> Renderer::segmentsOf(const std::vector<Polyline>& lines, const QColor& colour) {
    std::vector<Segment> out;
    for (const auto& line : lines)
        for (std::size_t i = 1; i < line.size(); ++i) {
            Segment s{};
            for (int k = 0; k < 3; ++k) {
                s.from[k] = static_cast<float>(line[i - 1][k]);
                s.to[k] = static_cast<float>(line[i][k]);
            }
            s.colour[0] = static_cast<unsigned char>(colour.red());
            s.colour[1] = static_cast<unsigned char>(colour.green());
            s.colour[2] = static_cast<unsigned char>(colour.blue());
            s.colour[3] = static_cast<unsigned char>(colour.alpha());
            out.push_back(s);
        }
    return out;
}

void Renderer::begin(const QMatrix4x4& view, const QMatrix4x4& projection, const QSize& pixels, const QColor& top, const QColor& bottom) {
    m_view = view;
    m_projection = projection;
    m_pixels = pixels;
    m_section = {};
    m_shaded = false;
    {
        const std::lock_guard guard(m_leftovers->lock);
        glDeleteVertexArrays(static_cast<GLsizei>(m_leftovers->arrays.size()), m_leftovers->arrays.data());
        glDeleteBuffers(static_cast<GLsizei>(m_leftovers->buffers.size()), m_leftovers->buffers.data());
        m_leftovers->arrays.clear();
        m_leftovers->buffers.clear();
    }
    glViewport(0, 0, pixels.width(), pixels.height());
    glEnable(GL_DEPTH_TEST);
    glDepthMask(GL_TRUE);
    glDepthFunc(GL_LEQUAL);
    glDisable(GL_CULL_FACE);
    glClear(GL_COLOR_BUFFER_BIT | GL_DEPTH_BUFFER_BIT);
    glEnable(GL_BLEND);
    glBlendFuncSeparate(GL_SRC_ALPHA, GL_ONE_MINUS_SRC_ALPHA, GL_ONE, GL_ONE_MINUS_SRC_ALPHA);
    m_back.bind();
    m_back.setUniformValue("top", rgb(top));
    m_back.setUniformValue("bottom", rgb(bottom));
    m_empty.bind();
    glDrawArrays(GL_TRIANGLES, 0, 3);
    m_empty.release();
}

void Renderer::makeShadowMap() {
    glGenTextures(1, &m_shadowMap);
    glBindTexture(GL_TEXTURE_2D, m_shadowMap);
    glTexImage2D(GL_TEXTURE_2D, 0, GL_DEPTH_COMPONENT24, kShadowPixels, kShadowPixels, 0, GL_DEPTH_COMPONENT, GL_UNSIGNED_INT, nullptr);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MIN_FILTER, GL_LINEAR);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_MAG_FILTER, GL_LINEAR);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_S, GL_CLAMP_TO_EDGE);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_WRAP_T, GL_CLAMP_TO_EDGE);
    glTexParameteri(GL_TEXTURE_2D, GL_TEXTURE_COMPARE_MODE, GL_COMPARE_REF_TO_TEXTURE);
    glGenFramebuffers(1, &m_shadowTarget);
}

void Renderer::castShadows(const std::vector<Caster>& casters) {
    m_shaded = false;
    for (const Caster& c : casters)
        if (!c.mesh->gpu.leftovers) make(*c.mesh);
    // What the light must take in: every body's own sphere, seen along the light.
    QMatrix4x4 along;
    along.lookAt(QVector3D(), -kKeyLight, std::abs(kKeyLight.normalized().y()) > 0.95f ? QVector3D(1, 0, 0) : QVector3D(0, 1, 0));
    QVector3D low(1e30f, 1e30f, 1e30f), high = -low;
    for (const Caster& c : casters) {
        const QVector3D at = along.map((m_view * c.model).map(c.mesh->middle));
        const QVector3D r(c.mesh->radius, c.mesh->radius, c.mesh->radius);
        for (int k = 0; k < 3; ++k) {
            low[k] = std::min(low[k], (at - r)[k]);
            high[k] = std::max(high[k], (at + r)[k]);
        }
    }
    if (casters.empty() || !(high.x() > low.x())) return;
    if (!m_shadowMap) makeShadowMap();
    GLint drawn = 0;
    glGetIntegerv(GL_DRAW_FRAMEBUFFER_BINDING, &drawn);
    glBindFramebuffer(GL_DRAW_FRAMEBUFFER, m_shadowTarget);
    glFramebufferTexture2D(GL_DRAW_FRAMEBUFFER, GL_DEPTH_ATTACHMENT, GL_TEXTURE_2D, m_shadowMap, 0);
    glDrawBuffer(GL_NONE);
    if (glCheckFramebufferStatus(GL_DRAW_FRAMEBUFFER) == GL_FRAMEBUFFER_COMPLETE) {
        QMatrix4x4 flat;
        flat.ortho(low.x(), high.x(), low.y(), high.y(), -high.z() - 1.0f, -low.z() + 1.0f);
        const QMatrix4x4 cast = flat * along;
        glViewport(0, 0, kShadowPixels, kShadowPixels);
        glEnable(GL_DEPTH_TEST);
        glDepthMask(GL_TRUE);
        glClear(GL_DEPTH_BUFFER_BIT);
        glEnable(GL_POLYGON_OFFSET_FILL);
        glPolygonOffset(2.0f, 4.0f);
        m_cast.bind();
        m_cast.setUniformValue("eye", m_view);
        m_cast.setUniformValue("flatten", cast);
        m_cast.setUniformValue("section", m_section);
        for (const Caster& c : casters) {
            m_cast.setUniformValue("model", c.model);
            glBindVertexArray(c.mesh->gpu.array);
            glDrawElements(GL_TRIANGLES, c.mesh->corners, GL_UNSIGNED_INT, nullptr);
        }
        glBindVertexArray(0);
        glDisable(GL_POLYGON_OFFSET_FILL);
        QMatrix4x4 toMap;
        toMap.translate(0.5f, 0.5f, 0.5f);
        toMap.scale(0.5f);
        m_toLight = toMap * cast;
        m_texel = std::max(high.x() - low.x(), high.y() - low.y()) / kShadowPixels;
        m_shaded = true;
    }
    glBindFramebuffer(GL_FRAMEBUFFER, static_cast<GLuint>(drawn));
    glViewport(0, 0, m_pixels.width(), m_pixels.height());
}

void Renderer::cutOpen(const QVector4D& plane, const QMatrix4x4& model) {
    // A plane goes from one system to another by the inverse, transposed.
    m_section = (m_view * model).inverted().transposed() * plane;
    glEnable(GL_CLIP_DISTANCE0);
}

void Renderer::setMeshUniforms(const QMatrix4x4& model, const QColor& colour, float alpha) {
    QOpenGLShaderProgram& mesh = m_shaded ? m_shadedMesh : m_open;
    mesh.bind();
    mesh.setUniformValue("model", model);
    mesh.setUniformValue("view", m_view);
    mesh.setUniformValue("projection", m_projection);
    mesh.setUniformValue("colour", QVector4D(rgb(colour), alpha));
    mesh.setUniformValue("section", m_section);
    mesh.setUniformValue("open", !m_section.isNull());
    if (m_shaded) {
        mesh.setUniformValue("toLight", m_toLight);
        mesh.setUniformValue("texel", m_texel);
        mesh.setUniformValue("shadow", 0);
        glActiveTexture(GL_TEXTURE0);
        glBindTexture(GL_TEXTURE_2D, m_shadowMap);
    }
    glDepthMask(alpha >= 1.0f ? GL_TRUE : GL_FALSE);
}

void Renderer::draw(Mesh& mesh, const QMatrix4x4& model, const QColor& colour, float alpha) {
    if (!mesh.gpu.leftovers) make(mesh);
    setMeshUniforms(model, colour, alpha);
    glEnable(GL_POLYGON_OFFSET_FILL);
    glPolygonOffset(1.0f, 1.0f);
    glBindVertexArray(mesh.gpu.array);
    glDrawElements(GL_TRIANGLES, mesh.corners, GL_UNSIGNED_INT, nullptr);
    glBindVertexArray(0);
    glDisable(GL_POLYGON_OFFSET_FILL);
    glDepthMask(GL_TRUE);
}

void Renderer::drawFaces(Mesh& mesh, const std::vector<int>& faces, const QMatrix4x4& model, const QColor& colour, float alpha) {
    if (!mesh.gpu.leftovers) make(mesh);
    setMeshUniforms(model, colour, alpha);
    glBindVertexArray(mesh.gpu.array);
    for (int f : faces) {
        if (f < 0 || static_cast<std::size_t>(f) >= mesh.faceRange.size()) continue;
        const auto [first, count] = mesh.faceRange[static_cast<std::size_t>(f)];
        glDrawElements(GL_TRIANGLES, count, GL_UNSIGNED_INT, reinterpret_cast<void*>(static_cast<std::size_t>(first) * sizeof(std::uint32_t)));
    }
    glBindVertexArray(0);
    glDepthMask(GL_TRUE);
}

void Renderer::draw(Lines& lines, const QMatrix4x4& model, float width, float alpha, int first, int count, float lift) {
    if (count < 0) count = lines.segments - first;
    count = std::min(count, lines.segments - first);
    if (count <= 0) return;
    if (!lines.gpu.leftovers) make(lines);
    m_line.bind();
    m_line.setUniformValue("transform", m_projection * m_view * model);
    m_line.setUniformValue("pixels", QVector2D(float(m_pixels.width()), float(m_pixels.height())));
    m_line.setUniformValue("width", width);
    m_line.setUniformValue("alpha", alpha);
    m_line.setUniformValue("lift", lift);
    m_line.setUniformValue("eye", m_view * model);
    m_line.setUniformValue("section", m_section);
    glBindVertexArray(lines.gpu.array);
    glBindBuffer(GL_ARRAY_BUFFER, lines.gpu.data);
    // The range is chosen by where the instance data begin: nothing is uploaded again.
    const auto at = [&](std::size_t offset) { return reinterpret_cast<void*>(static_cast<std::size_t>(first) * sizeof(Segment) + offset); };
    for (unsigned a = 0; a < 3; ++a) {
        glEnableVertexAttribArray(a);
        glVertexAttribDivisor(a, 1);
    }
    glVertexAttribPointer(0, 3, GL_FLOAT, GL_FALSE, sizeof(Segment), at(0));
    glVertexAttribPointer(1, 3, GL_FLOAT, GL_FALSE, sizeof(Segment), at(12));
    glVertexAttribPointer(2, 4, GL_UNSIGNED_BYTE, GL_TRUE, sizeof(Segment), at(24));
    glDrawArraysInstanced(GL_TRIANGLE_STRIP, 0, 4, count);
    glBindVertexArray(0);
}

void Renderer::end() {
    glDisable(GL_CLIP_DISTANCE0);
    glDisable(GL_DEPTH_TEST);
    glDisable(GL_BLEND);
    glBindVertexArray(0);
    glBindBuffer(GL_ARRAY_BUFFER, 0);
    glUseProgram(0);
}

Picture::Picture(const QMatrix4x4& view, const QMatrix4x4& projection, const QSize& pixels, const QColor& top, const QColor& bottom, bool smooth)
    : m_pixels(pixels), m_smooth(smooth) {
    m_steps.emplace_back([=](Renderer& r) { r.begin(view, projection, pixels, top, bottom); });
}

void Picture::cutOpen(const QVector4D& plane, const QMatrix4x4& model) {
    m_steps.emplace_back([=](Renderer& r) { r.cutOpen(plane, model); });
    if (m_solid.empty()) m_castAfter = m_steps.size() - 1; // what is cut away casts no shadow either
}

void Picture::draw(const Mesh& mesh, const QMatrix4x4& model, const QColor& colour, float alpha) {
    if (alpha >= 1.0f) m_solid.push_back({mesh, model}); // what is seen through casts no shadow
    m_steps.emplace_back([=](Renderer& r) { r.draw(*mesh, model, colour, alpha); });
}

void Picture::drawFaces(const Mesh& mesh, const std::vector<int>& faces, const QMatrix4x4& model, const QColor& colour, float alpha) {
    if (alpha >= 1.0f && (m_solid.empty() || m_solid.back().first != mesh)) m_solid.push_back({mesh, model});
    m_steps.emplace_back([=](Renderer& r) { r.drawFaces(*mesh, faces, model, colour, alpha); });
}

void Picture::draw(const Lines& lines, const QMatrix4x4& model, float width, float alpha, int first, int count, float lift) {
    m_steps.emplace_back([=](Renderer& r) { r.draw(*lines, model, width, alpha, first, count, lift); });
}

void Picture::drawWith(Renderer& renderer) const {
    std::vector<Renderer::Caster> casters;
    for (const auto& [mesh, model] : m_solid) casters.push_back({mesh.get(), model});
    for (std::size_t i = 0; i < m_steps.size(); ++i) {
        m_steps[i](renderer);
        if (m_smooth && i == m_castAfter) renderer.castShadows(casters); // without a graphics card, once the picture rests
    }
    renderer.end();
}

} // namespace gyre
