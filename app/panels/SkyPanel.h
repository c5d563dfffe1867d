// The map of directions in the upper right corner of what it lies on: a button that opens it, small, or large.
#pragma once
#include "model/SkyShow.h"
#include <QImage>
#include <QPushButton>
#include <QWidget>

namespace gyre {

class OpenJob;

class SkyPanel : public QWidget {
    Q_OBJECT
public:
    SkyPanel(OpenJob& open, SkyShow& sky, QWidget* parent);
    [[nodiscard]] QSize sizeHint() const override;
    /// Where a direction is drawn.
    [[nodiscard]] QPointF pixelOf(const Vec3& axis) const;
    /// What the line under the map says.
    [[nodiscard]] QString words() const;

protected:
    bool eventFilter(QObject* watched, QEvent* e) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void leaveEvent(QEvent* e) override;

private:
    void refresh();
    void place();
    QPushButton* button(const QString& name, const QString& text, const QString& help);
    [[nodiscard]] double radius() const;
    [[nodiscard]] QPointF centre() const;
    [[nodiscard]] std::optional<Vec3> axisUnder(const QPointF& pixel) const; ///< nothing beside the disc
    void drawDisc();
    void drawMap(QPainter& painter, const SkyShow::Picture& picture) const;
    void drawKey(QPainter& painter, double y) const;
    void drawNames(QPainter& painter) const; ///< of what is in the way, where it has the most room
    SkyShow& m_sky;
    QPushButton *m_open, *m_larger, *m_close;
    QImage m_disc; ///< the cells, in the pixels of the screen
    std::optional<Vec3> m_dragged;
};

} // namespace gyre
