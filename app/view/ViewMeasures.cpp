// What was measured, beside the things that it was measured on.
#include "Theme.h"
#include "model/Measures.h"
#include "view/View.h"
#include <QPainter>
#include <algorithm>

namespace gyre {

// The ends that figures lie between, joined by a line; the words beside it, none over another.
void View::drawMeasures(QPainter& painter) const {
    if (m_atMachine) return;
    const Theme& t = theme();
    std::vector<QRectF> taken;
    for (const Measures::Entry& entry : m_model.measures().all()) {
        if (entry.facts.empty()) continue;
        const Measured& first = entry.facts.front();
        const bool line = (first.to - first.from).norm() > 1e-9;
        const auto a = m_camera.project(line ? first.from : entry.one.at), b = m_camera.project(line ? first.to : entry.one.at);
        if (!a || !b) continue;
        if (line) {
            painter.setPen(QPen(t.card, 4.0));
            painter.drawLine(*a, *b);
            painter.setPen(QPen(t.accent, 1.8));
            painter.drawLine(*a, *b);
        }
        painter.setPen(QPen(t.card, 1.5));
        painter.setBrush(t.accent);
        for (const QPointF& p : {*a, *b}) painter.drawEllipse(p, 3.5, 3.5);
        // One figure a line: narrow, so that the work is seen beside it.
        QStringList lines;
        if (!entry.tool.isEmpty()) lines << entry.tool;
        for (const Measured& fact : entry.facts) lines << m_model.measures().words(fact);
        const QString words = lines.join('\n');
        QRectF box(0.5 * (*a + *b) + QPointF(10, 8), painter.fontMetrics().boundingRect(QRect(0, 0, 1000, 1000), Qt::AlignLeft, words).adjusted(-8, -5, 8, 5).size());
        box.moveRight(std::min(box.right(), width() - 8.0));
        for (std::size_t tries = 0; tries <= taken.size(); ++tries)
            for (const QRectF& other : taken)
                if (box.intersects(other)) box.moveTop(other.bottom() + 2);
        box.moveBottom(std::min(box.bottom(), height() - 8.0));
        taken.push_back(box);
        painter.setPen(QPen(t.hairline, 1));
        painter.setBrush(t.card);
        painter.drawRoundedRect(box, 6, 6);
        painter.setPen(t.ink);
        painter.drawText(box.adjusted(8, 5, -8, -5), Qt::AlignLeft, words);
    }
}

} // namespace gyre
