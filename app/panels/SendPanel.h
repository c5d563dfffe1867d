// The Send bench: write the program, see it in step with the view, see what the read-back says.
#pragma once
#include "model/AppModel.h"
#include <QWidget>

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

private:
    void write();
    void store();
    void followLocation();
    void followCursor();
    void outdated();
    void cannot(const Error& error);
    void makeWords();
    void showWords();
    AppModel& m_model;
    Dialect m_dialect = Dialect::TipControl;
    QLabel* m_checks = nullptr;
    QPlainTextEdit* m_view = nullptr;
    QPushButton *m_write = nullptr, *m_store = nullptr;
    Sentence* m_words = nullptr;
    std::vector<Word*> m_program; ///< its words
    QString m_text;
    bool m_waits = false; ///< for the proof, to write then
};

} // namespace gyre
