// The Send bench: write the program, see it in step with the view, see what the read-back says.
#pragma once
#include "model/AppModel.h"
#include <QImage>
#include <QWidget>
#include <functional>

class QLabel;
class QPlainTextEdit;
class QPushButton;

namespace gyre {

class Sentence;
class Word;

class SendPanel : public QWidget {
    Q_OBJECT
public:
    explicit SendPanel(AppModel& model, QWidget* parent = nullptr);
    [[nodiscard]] QString text() const { return m_text; }
    /// Writes it to a file, unless that is one that must stay.
    void storeAs(const QString& file);
    /// The set-up sheet, as a page or a PDF.
    void storeSheetAs(const QString& file);
    /// Where the picture for the sheet comes from.
    void setSeen(std::function<QImage()> seen) { m_seen = std::move(seen); }

private:
    void write();
    void store();
    [[nodiscard]] QString nameBeside(const QString& ending) const;
    void tellStored(const Status& done, const QString& file);
    void followLocation();
    void followCursor();
    void outdated();
    void cannot(const Error& error);
    void makeWords();
    [[nodiscard]] QLayout* paperRow();
    void showWords();
    AppModel& m_model;
    Dialect m_dialect = Dialect::TipControl;
    QLabel* m_checks = nullptr;
    QPlainTextEdit* m_view = nullptr;
    QPushButton *m_write = nullptr, *m_store = nullptr;
    Sentence* m_words = nullptr;
    std::vector<Word*> m_program; ///< its words
    QString m_text, m_stored;     ///< the program, and the file that it was stored in last
    std::function<QImage()> m_seen;
    bool m_waits = false; ///< for the proof, to write then
};

} // namespace gyre
