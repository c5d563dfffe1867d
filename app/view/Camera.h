// A camera that turns about a point.
#pragma once
#include "geom/Box.h"
#include <QMatrix4x4>
#include <QPointF>
#include <QSize>
#include <optional>

namespace gyre {

class Camera {
public:
    void frame(const Box& box);
    void orbit(const QPointF& byPixels);
    void pan(const QPointF& byPixels);
    /// Zooms by a factor, keeping what lies under the cursor in place.
    void zoom(double factor, const QPointF& at);
    /// What it looks at is written in coordinates that have moved by `by`: it keeps looking at the same.
    void ride(const Frame& by);
    void look(double azimuthDegrees, double elevationDegrees);
    void resize(const QSize& size) { m_size = size; }

    [[nodiscard]] QMatrix4x4 view() const;
    [[nodiscard]] QMatrix4x4 projection() const;
    [[nodiscard]] Vec3 eye() const;
    [[nodiscard]] Vec3 direction() const; ///< into the screen
    /// Pixel position of a point; nullopt when it lies behind the eye.
    [[nodiscard]] std::optional<QPointF> project(const Vec3& p) const;
    struct Ray {
        Vec3 origin, direction;
    };
    [[nodiscard]] Ray ray(const QPointF& pixel) const;
    [[nodiscard]] double pixelSize() const; ///< mm a pixel at the turning point

private:
    Vec3 m_centre = Vec3::Zero();
    double m_distance = 300.0, m_azimuth = -62.0, m_elevation = 26.0, m_radius = 100.0;
    QSize m_size{800, 600};
};

} // namespace gyre
