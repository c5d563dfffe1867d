// The unrolled sheet: what the 3D view shows round, laid flat – the part's edges, what is milled, the ways of the cutter; curves are
// picked and drawn on it.
#pragma once
#include "model/OpenJob.h"
#include <QWidget>

class QLabel;
class QLineEdit;
class QPushButton;

namespace gyre {

class Milling;
class Picks;
struct MillResult;
struct Sheet;

class SheetView : public QWidget {
    Q_OBJECT
public:
    SheetView(OpenJob& open, Picks& picks, Milling& milling, QWidget* parent = nullptr);
    /// Pixel of a place on the sheet, and back; for tests as well.
    [[nodiscard]] QPointF pixelOf(const Vec2& flat) const;
    [[nodiscard]] Vec2 flatAt(const QPointF& pixel) const;
    [[nodiscard]] bool drawing() const { return m_drawing; }
    void setDrawing(bool on);
    /// Adds what was drawn as a curve that the operation follows.
    void finishDrawing(bool closed);
    void showAll();

protected:
    void paintEvent(QPaintEvent* e) override;
    void paintArea(QPainter& p, const MillResult& mill) const;
    void paintEdges(QPainter& p) const;
    void paintPasses(QPainter& p, const MillResult& mill) const;
    void paintTool(QPainter& p, const Vec3& tip, double radius) const;
    void paintDrawing(QPainter& p) const;
    void paintWords(QPainter& p) const;
    bool eventFilter(QObject* object, QEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void leaveEvent(QEvent* e) override;
    void resizeEvent(QResizeEvent* e) override;

private:
    struct FlatEdge {
        int edge = -1;
        std::vector<Vec2> line;
        bool onSheet = false; ///< at the sheet's own radius or height
    };
    void remake();
    [[nodiscard]] Vec2 shownWay(const Vec2& flat) const; ///< a step on the sheet as one on the screen, y up
    [[nodiscard]] Vec2 flatWay(const Vec2& shown) const;
    void readPoints();
    [[nodiscard]] std::optional<std::size_t> edgeNear(const QPointF& pixel) const; ///< index in m_edges
    [[nodiscard]] Vec2 snapped(const QPointF& pixel) const;
    [[nodiscard]] QString wordsFor(const Vec2& flat) const;
    void drawGrid(QPainter& p) const;

    OpenJob& m_open;
    Picks& m_picks;
    Milling& m_milling;
    QPushButton *m_draw = nullptr, *m_done = nullptr, *m_close = nullptr;
    QLineEdit* m_typed = nullptr;
    QLabel* m_hint = nullptr;
    std::shared_ptr<const Sheet> m_sheet;
    std::shared_ptr<const Part> m_part;
    std::vector<FlatEdge> m_edges;
    std::vector<std::vector<Vec2>> m_curves; ///< what the operation follows
    Vec2 m_centre = Vec2::Zero();
    double m_scale = 2.0; ///< pixels a mm
    bool m_framed = false, m_drawing = false, m_panning = false, m_moved = false;
    QPointF m_pressed, m_last, m_cursor;
    bool m_inside = false;
    std::vector<Vec2> m_points; ///< of the curve that is being drawn
};

} // namespace gyre
