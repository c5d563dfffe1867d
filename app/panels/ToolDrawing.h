// A tool assembly drawn to scale, with its dimensions; the ends of dimension lines can be dragged.
#pragma once
#include "model/OpenJob.h"
#include <QWidget>

namespace gyre {

class ToolShelf;
class ToolDrawing : public QWidget {
    Q_OBJECT
public:
    ToolDrawing(OpenJob& open, ToolShelf& tools, QWidget* parent = nullptr);

    /// One dimension: a length up from the tip, or a diameter at a height.
    struct Dimension {
        QString key, label;
        bool along = true;
        double value = 0.0, at = 0.0; ///< at: height of a diameter; column of a length
        QPointF handle;               ///< pixels
    };
    [[nodiscard]] std::vector<Dimension> dimensions() const;
    /// Sets one number of a tool by the name its dimension has.
    static void set(Assembly& tool, const QString& key, double value);
    [[nodiscard]] static double valueOf(const Assembly& tool, const QString& key);

protected:
    void paintPaper(QPainter& p, double s) const;
    void paintDimension(QPainter& p, const Dimension& d, const Assembly& a) const;
    void paintEvent(QPaintEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;

private:
    /// Pixels of a point of the tool: x across, y up from the tip.
    [[nodiscard]] QPointF pixel(double x, double y) const;
    [[nodiscard]] double scale() const;
    OpenJob& m_open;
    ToolShelf& m_tools;
    QString m_dragged, m_hovered;
    QPointF m_pressed;
    double m_from = 0.0, m_dragScale = 1.0;
    int m_drags = 0; ///< every drag is a step of the history by itself
};

} // namespace gyre
