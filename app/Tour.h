// A short tour over the demo, shown once: one card after the other beside what it speaks of.
#pragma once
#include <QFrame>

class QLabel;
class QPushButton;

namespace gyre {

class Tour : public QFrame {
    Q_OBJECT
public:
    explicit Tour(QWidget* window);
    /// Has it been taken or left before, by this user?
    [[nodiscard]] static bool seen();
    [[nodiscard]] int steps() const;
    [[nodiscard]] int step() const { return m_step; }
    void next();

protected:
    bool eventFilter(QObject* object, QEvent* event) override;
    bool event(QEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

private:
    void show(int step);
    void place();
    void leave();
    QWidget* m_around = nullptr; ///< a frame around what the card speaks of
    QLabel *m_title = nullptr, *m_text = nullptr;
    QPushButton* m_next = nullptr;
    int m_step = 0;
};

} // namespace gyre
