#include "view/Camera.h"
#include "base/Units.h"
#include <QVector4D>

namespace gyre {

namespace {
constexpr double kFieldOfView = 28.0; // degrees, upright
QVector3D qt(const Vec3& v) { return {float(v.x()), float(v.y()), float(v.z())}; }
} // namespace

void Camera::frame(const Box& box) {
    if (box.empty()) return;
    m_centre = box.centre();
    m_radius = std::max(1.0, 0.5 * box.diagonal());
    // As near as leaves a small margin around all corners, seen from here.
    const Vec3 ahead = direction();
    Vec3 right = ahead.cross(Vec3::UnitZ());
    right = right.norm() > 1e-9 ? Vec3(right.normalized()) : Vec3(Vec3::UnitX());
    const Vec3 up = right.cross(ahead);
    const double high = std::tan(radians(0.5 * kFieldOfView)) * 0.96, wide = high * m_size.width() / std::max(1, m_size.height());
    m_distance = 1.0;
    for (int k = 0; k < 8; ++k) {
        const Vec3 c = Vec3((k & 1) ? box.high.x() : box.low.x(), (k & 2) ? box.high.y() : box.low.y(), (k & 4) ? box.high.z() : box.low.z()) - m_centre;
        m_distance = std::max(m_distance, std::max(std::abs(c.dot(right)) / wide, std::abs(c.dot(up)) / high) - c.dot(ahead));
    }
}

void Camera::ride(const Frame& by) {
    m_centre = by.inverse() * m_centre;
    m_azimuth -= degrees(std::atan2(by.linear()(1, 0), by.linear()(0, 0)));
}

void Camera::look(double azimuth, double elevation) {
    m_azimuth = azimuth;
    m_elevation = elevation;
}

void Camera::orbit(const QPointF& d) {
    m_azimuth -= 0.4 * d.x();
    m_elevation = std::clamp(m_elevation + 0.4 * d.y(), -89.5, 89.5);
}

double Camera::pixelSize() const { return 2.0 * m_distance * std::tan(radians(0.5 * kFieldOfView)) / std::max(1, m_size.height()); }

Vec3 Camera::direction() const {
    const double a = radians(m_azimuth), e = radians(m_elevation);
    return -Vec3(std::cos(e) * std::cos(a), std::cos(e) * std::sin(a), std::sin(e));
}

Vec3 Camera::eye() const { return m_centre - m_distance * direction(); }

void Camera::pan(const QPointF& d) {
    const Vec3 right = direction().cross(Vec3::UnitZ()).normalized(), up = right.cross(direction());
    m_centre += pixelSize() * (-d.x() * right + d.y() * up);
}

void Camera::zoom(double factor, const QPointF& at) {
    const QPointF off = at - QPointF(0.5 * m_size.width(), 0.5 * m_size.height());
    pan(-off * (1.0 - 1.0 / factor) * 1.0);
    m_distance = std::clamp(m_distance / factor, 0.05 * m_radius, 60.0 * m_radius);
}

QMatrix4x4 Camera::view() const {
    QMatrix4x4 m;
    m.lookAt(qt(eye()), qt(m_centre), QVector3D(0, 0, 1));
    return m;
}

QMatrix4x4 Camera::projection() const {
    QMatrix4x4 m;
    const double far = m_distance + 30.0 * m_radius;
    m.perspective(float(kFieldOfView), float(m_size.width()) / std::max(1, m_size.height()), float(std::max(0.5, 0.02 * m_distance)), float(far));
    return m;
}

std::optional<QPointF> Camera::project(const Vec3& p) const {
    const QVector4D c = projection() * view() * QVector4D(qt(p), 1.0f);
    if (c.w() <= 0.0f) return std::nullopt;
    return QPointF((c.x() / c.w() * 0.5 + 0.5) * m_size.width(), (0.5 - c.y() / c.w() * 0.5) * m_size.height());
}

Camera::Ray Camera::ray(const QPointF& pixel) const {
    const double t = std::tan(radians(0.5 * kFieldOfView));
    const double x = (2.0 * pixel.x() / m_size.width() - 1.0) * t * m_size.width() / std::max(1, m_size.height()), y = (1.0 - 2.0 * pixel.y() / m_size.height()) * t;
    const Vec3 right = direction().cross(Vec3::UnitZ()).normalized(), up = right.cross(direction());
    return {eye(), (direction() + x * right + y * up).normalized()};
}

} // namespace gyre
