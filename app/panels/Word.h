// A word of a sentence that can be edited where it stands: click, type, arrow keys, wheel, drag sideways.
#pragma once
#include <QLineEdit>
#include <QWidget>
#include <functional>
#include <vector>

namespace gyre {

class Word : public QWidget {
    Q_OBJECT
public:
    enum class Kind { Length, Angle, Number, Text, Choice, Action };
    struct Option {
        QString value, label;
    };

    /// @param key names the word for the model; the object name is "word." + key
    Word(Kind kind, const QString& key, const QString& accessibleName, QWidget* parent = nullptr);

    [[nodiscard]] Kind kind() const { return m_kind; }
    [[nodiscard]] QString key() const { return m_key; }
    [[nodiscard]] QString text() const { return m_text; }
    [[nodiscard]] QString value() const { return m_value; }
    /// Does it make much of the difference? Such words are heavier.
    void setHeavy(bool on) { m_heavy = on; }
    void setStep(double step) { m_step = step; }
    void setOptions(std::vector<Option> options) { m_options = std::move(options); }
    [[nodiscard]] const std::vector<Option>& options() const { return m_options; }
    /// @param value in the job file's units (mm, degrees) or the option's value
    void show(const QString& value, bool inches);
    void setWords(const QString& text); ///< of an action
    void setChecked(bool on);           ///< an action that is under way
    /// What an action picks, as numbers: typing on the word edits them.
    void setList(const QString& numbers) { m_list = numbers; }
    [[nodiscard]] QSize sizeHint() const override;
    /// Opens the line to type into, or the list of choices.
    void beginEdit(const QString& start = {});

signals:
    void changed(const QString& key, const QString& value);
    void triggered(const QString& key);
    void listed(const QString& key, const QString& numbers);
    void offered(const QString& key, const QString& value); ///< of a choice: its option under the pointer or the keys; none when the list goes
    void hovered(const QString& key);                       ///< empty when left
    void wrongText(const QString& why);
    void entered(); ///< Return ended the typing

protected:
    bool event(QEvent* e) override;
    void paintEvent(QPaintEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void enterEvent(QEnterEvent* e) override;
    void leaveEvent(QEvent* e) override;
    void focusInEvent(QFocusEvent* e) override;
    void focusOutEvent(QFocusEvent* e) override;
    bool eventFilter(QObject* object, QEvent* e) override;

private:
    void stepBy(double steps);
    void closeEdit(bool keep);
    void commit(const QString& text);
    void setShownText(const QString& text);
    Kind m_kind;
    [[nodiscard]] bool isNumber() const { return m_kind == Kind::Length || m_kind == Kind::Angle || m_kind == Kind::Number; }
    void openLine(const QString& text, bool select);
    QString m_key, m_text, m_value, m_list, m_opened;
    bool m_inches = false, m_checked = false, m_dragging = false, m_heavy = true;
    [[nodiscard]] QFont wordFont() const;
    double m_step = 0.1, m_dragStart = 0.0, m_dragValue = 0.0;
    std::vector<Option> m_options;
    QLineEdit* m_edit = nullptr;
};

} // namespace gyre
