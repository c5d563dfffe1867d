// The whole route over the tape: a stretch for each operation, as long as it takes; what stands against it; where the playhead is.
#pragma once
#include "model/OpenJob.h"
#include <QWidget>

namespace gyre {

class Route;
class RouteStrip : public QWidget {
    Q_OBJECT
public:
    RouteStrip(OpenJob& open, Route& route, QWidget* parent = nullptr);
    struct Stretch {
        QString operation, number;
        double from = 0.0, to = 0.0; ///< s, from the start of the route
        bool known = false;          ///< its path is there; else it has a stretch of its own kind, without a length
        bool stops = false, proven = false;
        std::vector<std::pair<double, double>> hazards; ///< s from its start
    };
    [[nodiscard]] const std::vector<Stretch>& stretches() const { return m_stretches; }
    [[nodiscard]] double xOf(double seconds) const;
    /// Seconds from the start of the route; nothing while the path of the selected operation is not there.
    [[nodiscard]] std::optional<double> now() const;

protected:
    void paintEvent(QPaintEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    bool event(QEvent* e) override;

private:
    void refresh();
    void goTo(double x);
    [[nodiscard]] const Stretch* at(double x) const;
    [[nodiscard]] QRectF plot() const;
    OpenJob& m_open;
    Route& m_route;
    std::vector<Stretch> m_stretches;
};

} // namespace gyre
