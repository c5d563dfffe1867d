// Draws triangles and wide lines with OpenGL 3.3 core. What is drawn is handed over as a Picture, recorded in the window's thread;
// the GPU's own data are made when it is first drawn, and drawn by range.
#pragma once
#include "geom/Polyline.h"
#include "geom/TriangleMesh.h"
#include <QColor>
#include <QMatrix4x4>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <QSurfaceFormat>
#include <QVector4D>
#include <functional>
#include <memory>
#include <mutex>

namespace gyre {

/// GPU objects that nobody draws any more; the drawing thread takes them away.
struct Leftovers {
    std::mutex lock;
    std::vector<GLuint> arrays, buffers;
};

/// Something in GPU memory. It may be let go in any thread.
struct OnGpu {
    OnGpu() = default;
    OnGpu(const OnGpu&) = delete;
    OnGpu& operator=(const OnGpu&) = delete;
    ~OnGpu();
    GLuint array = 0, data = 0, order = 0;
    std::shared_ptr<Leftovers> leftovers; ///< set when it is made
};

class Renderer : protected QOpenGLFunctions_3_3_Core {
public:
    /// Triangles; those of one face lie together.
    struct Mesh {
        explicit Mesh(TriangleMesh mesh) : source(std::make_shared<const TriangleMesh>(std::move(mesh))) {}
        explicit Mesh(std::shared_ptr<const TriangleMesh> mesh) : source(std::move(mesh)) {}
        void layOut();                              ///< in the thread that draws: large ones take a while
        std::shared_ptr<const TriangleMesh> source; ///< until it is laid out
        std::vector<float> vertices;                ///< position and normal; until they are on the GPU
        std::vector<std::uint32_t> order;
        int corners = 0;                            ///< what follows is known once it is laid out
        std::vector<std::pair<int, int>> faceRange; ///< first corner and count per face
        QVector3D middle;                           ///< of a sphere around all of it
        float radius = 0.0f;
        OnGpu gpu;
    };
    struct Segment {
        float from[3], to[3];
        unsigned char colour[4];
    };
    /// Line segments, drawn as quads of constant pixel width.
    struct Lines {
        explicit Lines(std::vector<Segment> all) : waiting(std::move(all)), segments(static_cast<int>(waiting.size())) {}
        std::vector<Segment> waiting; ///< until they are on the GPU
        int segments = 0;
        OnGpu gpu;
    };

    /// What is drawn on; to be made the default before the application starts.
    [[nodiscard]] static QSurfaceFormat surfaceFormat();
    [[nodiscard]] static std::vector<Segment> segmentsOf(const std::vector<Polyline>& lines, const QColor& colour);

    // All below in the thread that has the context.
    /// @return false with a reason when OpenGL 3.3 is not to be had
    bool initialise(QString& why);
    /// Is everything computed by the processor, for lack of a graphics card?
    [[nodiscard]] bool inSoftware();
    /// Copies one picture of `pixels` size to another.
    void copy(GLuint from, GLuint to, const QSize& pixels);
    /// The picture bound, as 32-bit colours from the top row down.
    [[nodiscard]] QImage read(const QSize& pixels);
    void begin(const QMatrix4x4& view, const QMatrix4x4& projection, const QSize& pixels, const QColor& top, const QColor& bottom);
    void cutOpen(const QVector4D& plane, const QMatrix4x4& model);
    struct Caster {
        Mesh* mesh = nullptr;
        QMatrix4x4 model;
    };
    /// What is drawn from here on lies in the shadow that these cast in the key light, which comes from over the viewer's left shoulder.
    void makeShadowMap();
    void castShadows(const std::vector<Caster>& casters);
    void draw(Mesh& mesh, const QMatrix4x4& model, const QColor& colour, float alpha);
    void drawFaces(Mesh& mesh, const std::vector<int>& faces, const QMatrix4x4& model, const QColor& colour, float alpha);
    void draw(Lines& lines, const QMatrix4x4& model, float width, float alpha, int first, int count, float lift);
    void end();

private:
    void make(Mesh& mesh);
    void make(Lines& lines);
    void setMeshUniforms(const QMatrix4x4& model, const QColor& colour, float alpha);
    QOpenGLShaderProgram m_open, m_shadedMesh, m_line, m_back, m_cast;
    GLuint m_shadowMap = 0, m_shadowTarget = 0; ///< live as long as the context
    bool m_shaded = false;
    QMatrix4x4 m_toLight; ///< from eye coordinates to the map's, 0 … 1
    float m_texel = 0.0f; ///< mm
    QOpenGLVertexArrayObject m_empty;
    QMatrix4x4 m_view, m_projection;
    QVector4D m_section; ///< in eye coordinates; 0: nothing is left out
    QSize m_pixels;
    std::shared_ptr<Leftovers> m_leftovers = std::make_shared<Leftovers>();
};

/// What is to be drawn, step by step. It shares what it draws, so that it can be drawn later and elsewhere.
class Picture {
public:
    using Mesh = std::shared_ptr<Renderer::Mesh>;
    using Lines = std::shared_ptr<Renderer::Lines>;
    Picture() = default;
    /// @param smooth several samples a pixel
    Picture(const QMatrix4x4& view, const QMatrix4x4& projection, const QSize& pixels, const QColor& top, const QColor& bottom, bool smooth);
    /// Leaves out what lies in front of a plane (normal and offset: n·p + w < 0 is drawn away), given in the coordinates of `model`.
    void cutOpen(const QVector4D& plane, const QMatrix4x4& model);
    void draw(const Mesh& mesh, const QMatrix4x4& model, const QColor& colour, float alpha = 1.0f);
    void drawFaces(const Mesh& mesh, const std::vector<int>& faces, const QMatrix4x4& model, const QColor& colour, float alpha);
    /// @param lift pulls lines towards the eye, so that they do not sink into surfaces
    void draw(const Lines& lines, const QMatrix4x4& model, float width, float alpha = 1.0f, int first = 0, int count = -1, float lift = 0.00004f);

    [[nodiscard]] const QSize& pixels() const { return m_pixels; }
    [[nodiscard]] bool smooth() const { return m_smooth; }
    void drawWith(Renderer& renderer) const;

private:
    QSize m_pixels;
    bool m_smooth = false;
    std::vector<std::pair<Mesh, QMatrix4x4>> m_solid;
    std::size_t m_castAfter = 0; ///< the step behind which shadows are cast
    std::vector<std::function<void(Renderer&)>> m_steps;
};

} // namespace gyre
