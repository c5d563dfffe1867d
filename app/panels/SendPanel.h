// The Send bench: write the program, see it in step with the view, see what the read-back says.
#pragma once
#include "model/OpenJob.h"
#include <QImage>
#include <QWidget>
#include <functional>

class QLabel;
class QPlainTextEdit;
class QPushButton;
class QVBoxLayout;

namespace gyre {

class Dialects;
class Programs;
class Sentence;
class ShopProgram;
class Word;

class SendPanel : public QWidget {
    Q_OBJECT
public:
    SendPanel(OpenJob& open, Programs& programs, Dialects& dialects, ShopProgram& shop, QWidget* parent = nullptr);
    [[nodiscard]] QString text() const { return m_text; }
    /// Writes it to a file, unless that is one that must stay.
    void storeAs(const QString& file);
    /// The set-up sheet, as a page or a PDF.
    void storeSheetAs(const QString& file);
    /// Where the picture for the sheet comes from.
    void setSeen(std::function<QImage()> seen) { m_seen = std::move(seen); }

private:
    void write();
    /// Writes it as it is now, proven or not, and marks what differs from the text before.
    void preview();
    void showPosted();
    /// Another of the programs that the route is divided into.
    void showPart(std::size_t part);
    void showWhy();
    void store();
    // A program that came back from the shop: SendShop.cpp.
    [[nodiscard]] QPushButton* shopButton();
    void showShop();
    void markShop();
    void showShopWhy();
    [[nodiscard]] QString nameBeside(const QString& ending) const;
    void tellStored(const Status& done, const QString& file);
    void followLocation();
    void followCursor();
    void outdated();
    void cannot(const Error& error);
    void makeWords();
    void makeKind(QVBoxLayout* outer);
    void makeProgram(QVBoxLayout* outer);
    void showKind();
    [[nodiscard]] QString endingNow() const;
    [[nodiscard]] QLayout* paperRow();
    void showWords();
    OpenJob& m_open;
    Programs& m_programs;
    Dialects& m_dialects;
    ShopProgram& m_shop;
    QLabel *m_checks = nullptr, *m_why = nullptr;
    Sentence* m_kindSentence = nullptr;
    Word *m_kind = nullptr, *m_change = nullptr, *m_part = nullptr;
    Sentence* m_partSentence = nullptr;
    QPlainTextEdit* m_view = nullptr;
    QPushButton *m_write = nullptr, *m_store = nullptr;
    Sentence* m_words = nullptr;
    std::vector<Word*> m_program; ///< its words
    int m_shownWords = 0;         ///< so many of them
    QString m_text, m_stored;     ///< the program, and the file that it was stored in last
    std::function<QImage()> m_seen;
    bool m_waits = false; ///< for the proof, to write then
};

} // namespace gyre
