// A few sentences with editable words, wrapped like text.
#pragma once
#include "panels/Word.h"

namespace gyre {

/// Plain text and words in order. "{}" in a text stands for the next word.
class Sentence : public QWidget {
public:
    explicit Sentence(QWidget* parent = nullptr);
    /// Replaces what is shown; words that are not named are hidden.
    void set(const QString& text, const std::vector<Word*>& words);
    [[nodiscard]] bool hasHeightForWidth() const override { return true; }
    [[nodiscard]] int heightForWidth(int width) const override { return flow(width, false); }
    [[nodiscard]] QSize sizeHint() const override { return {240, flow(std::max(240, width()), false)}; }
    /// Lays everything out again after a word has changed its text.
    void reflow();

protected:
    void resizeEvent(QResizeEvent* e) override;
    void paintEvent(QPaintEvent* e) override;

private:
    struct Token {
        QString text;
        Word* word = nullptr;
        bool glued = false; ///< no space before it
    };
    int flow(int width, bool place) const;
    std::vector<Token> m_tokens;
    mutable std::vector<std::pair<QPoint, QString>> m_drawn;
};

} // namespace gyre
