#include "panels/Sentence.h"
#include "Theme.h"
#include <QEvent>
#include <QPainter>
#include <algorithm>

namespace gyre {

Sentence::Sentence(QWidget* parent) : QWidget(parent) {
    QSizePolicy p(QSizePolicy::Preferred, QSizePolicy::Fixed);
    p.setHeightForWidth(true);
    setSizePolicy(p);
}

void Sentence::set(const QString& text, const std::vector<Word*>& words) {
    for (const Token& t : m_tokens)
        // One that another sentence of the card has taken meanwhile is that one's to show.
        if (t.word && t.word->parentWidget() == this && std::find(words.begin(), words.end(), t.word) == words.end()) t.word->hide();
    m_tokens.clear();
    std::size_t next = 0;
    bool glued = true;
    QString run;
    const auto flush = [&] {
        if (!run.isEmpty()) m_tokens.push_back({run, nullptr, glued});
        if (!run.isEmpty()) glued = true;
        run.clear();
    };
    for (qsizetype i = 0; i < text.size(); ++i) {
        if (text.mid(i, 2) == "{}") {
            flush();
            if (next < words.size()) m_tokens.push_back({{}, words[next++], glued});
            glued = true;
            ++i;
        } else if (text[i] == ' ') {
            flush();
            glued = false;
        } else {
            run += text[i];
        }
    }
    flush();
    for (Word* w : words) {
        w->setParent(this);
        w->setVisible(true);
    }
    reflow();
}

int Sentence::heightAt(int width) const {
    for (const auto& [known, height] : m_heights)
        if (known == width) return height;
    if (m_heights.size() > 8) m_heights.clear();
    return m_heights.emplace_back(width, flow(width, false)).second;
}

void Sentence::reflow() {
    m_heights.clear();
    flow(width(), true);
    updateGeometry();
    setMinimumHeight(heightAt(std::max(width(), 200)));
    update();
}

int Sentence::flow(int width, bool place) const {
    const QFontMetrics m(font());
    const int space = m.horizontalAdvance(' '), line = m.height() + 6;
    int x = 0, y = 0;
    if (place) m_drawn.clear();
    for (std::size_t i = 0; i < m_tokens.size(); ++i) {
        // Glued tokens (a word and its comma) stay together on one line.
        int whole = 0;
        for (std::size_t k = i; k < m_tokens.size() && (k == i || m_tokens[k].glued); ++k)
            whole += m_tokens[k].word ? m_tokens[k].word->sizeHint().width() : m.horizontalAdvance(m_tokens[k].text);
        const Token& t = m_tokens[i];
        if (!t.glued && x > 0) {
            x += space;
            if (x + whole > width) {
                x = 0;
                y += line;
            }
        }
        const int w = t.word ? t.word->sizeHint().width() : m.horizontalAdvance(t.text);
        if (place) {
            if (t.word)
                t.word->setGeometry(x, y + 1, w, line - 3);
            else
                m_drawn.emplace_back(QPoint(x, y + m.ascent() + 2), t.text);
        }
        x += w;
    }
    return y + line;
}

// A word has other letters, or all have another size.
bool Sentence::event(QEvent* e) {
    if (e->type() == QEvent::LayoutRequest || e->type() == QEvent::FontChange) m_heights.clear();
    return QWidget::event(e);
}

void Sentence::resizeEvent(QResizeEvent* e) {
    flow(width(), true);
    setMinimumHeight(heightAt(std::max(width(), 100)));
    QWidget::resizeEvent(e);
}

void Sentence::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setPen(theme().ink);
    for (const auto& [at, text] : m_drawn) p.drawText(at, text);
}

} // namespace gyre
