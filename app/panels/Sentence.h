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
    [[nodiscard]] int heightForWidth(int width) const override { return heightAt(width); }
    [[nodiscard]] QSize sizeHint() const override { return {240, heightAt(std::max(240, width()))}; }
    /// Lays everything out again after a word has changed its text.
    void reflow();

protected:
    bool event(QEvent* e) override;
    void resizeEvent(QResizeEvent* e) override;
    void paintEvent(QPaintEvent* e) override;

private:
    struct Token {
        QString text;
        Word* word = nullptr;
        bool glued = false; ///< no space before it
    };
    int flow(int width, bool place) const;
    /// Layouts ask over and over for the same few widths.
    [[nodiscard]] int heightAt(int width) const;
    mutable std::vector<std::pair<int, int>> m_heights; ///< known ones, by width
    std::vector<Token> m_tokens;
    mutable std::vector<std::pair<QPoint, QString>> m_drawn;
};

} // namespace gyre
