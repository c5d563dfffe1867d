// Draws triangles and wide lines with OpenGL 3.3 core. Data are uploaded once and drawn by range.
#pragma once
#include "geom/Polyline.h"
#include "geom/TriangleMesh.h"
#include <QColor>
#include <QMatrix4x4>
#include <QOpenGLBuffer>
#include <QOpenGLFunctions_3_3_Core>
#include <QOpenGLShaderProgram>
#include <QOpenGLVertexArrayObject>
#include <QSurfaceFormat>
#include <QVector4D>
#include <memory>

namespace gyre {

class Renderer : protected QOpenGLFunctions_3_3_Core {
public:
    /// Triangles in GPU memory; those of one face lie together.
    struct Mesh {
        QOpenGLVertexArrayObject vao;
        QOpenGLBuffer data{QOpenGLBuffer::VertexBuffer}, order{QOpenGLBuffer::IndexBuffer};
        int corners = 0;
        std::vector<std::pair<int, int>> faceRange; ///< first corner and count per face
    };
    /// Line segments in GPU memory, drawn as quads of constant pixel width.
    struct Lines {
        QOpenGLVertexArrayObject vao;
        QOpenGLBuffer data{QOpenGLBuffer::VertexBuffer};
        int segments = 0;
    };
    struct Segment {
        float from[3], to[3];
        unsigned char colour[4];
    };

    /// What the view draws on; to be made the default before the application starts.
    [[nodiscard]] static QSurfaceFormat surfaceFormat();
    /// @return false with a reason when OpenGL 3.3 is not to be had
    bool initialise(QString& why);
    /// Is everything computed by the processor, for lack of a graphics card?
    [[nodiscard]] bool inSoftware();
    /// Copies one picture of `pixels` size to another and leaves that one bound.
    void copy(GLuint from, GLuint to, const QSize& pixels);
    [[nodiscard]] std::unique_ptr<Mesh> upload(const TriangleMesh& mesh);
    [[nodiscard]] std::unique_ptr<Lines> upload(const std::vector<Segment>& segments);
    [[nodiscard]] static std::vector<Segment> segmentsOf(const std::vector<Polyline>& lines, const QColor& colour);

    void begin(const QMatrix4x4& view, const QMatrix4x4& projection, const QSize& pixels, const QColor& top, const QColor& bottom);
    /// Leaves out what lies in front of a plane (normal and offset: n·p + w < 0 is drawn away), given in the coordinates of `model`.
    void cutOpen(const QVector4D& plane, const QMatrix4x4& model);
    void draw(Mesh& mesh, const QMatrix4x4& model, const QColor& colour, float alpha = 1.0f);
    void drawFaces(Mesh& mesh, const std::vector<int>& faces, const QMatrix4x4& model, const QColor& colour, float alpha);
    /// @param lift pulls lines towards the eye, so that they do not sink into surfaces
    void draw(Lines& lines, const QMatrix4x4& model, float width, float alpha = 1.0f, int first = 0, int count = -1, float lift = 0.00004f);
    void end();

private:
    void setMeshUniforms(const QMatrix4x4& model, const QColor& colour, float alpha);
    QOpenGLShaderProgram m_mesh, m_line, m_back;
    QOpenGLVertexArrayObject m_empty;
    QMatrix4x4 m_view, m_projection;
    QVector4D m_section; ///< in eye coordinates; 0: nothing is left out
    QSize m_pixels;
};

} // namespace gyre
