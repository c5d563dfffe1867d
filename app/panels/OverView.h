// A card that lies over the upper left of the view until it is closed.
#pragma once
#include <QFrame>
#include <QPushButton>

namespace gyre {

class OverView : public QFrame {
    Q_OBJECT
public:
    /// @param wide  pixels, where the view has as many
    OverView(const QString& name, int wide, QWidget* parent);

protected:
    /// Escape, or its cross.
    virtual void close() = 0;
    [[nodiscard]] virtual int high() const; ///< all that the view has, unless less will do
    /// What brings it to its place and in front; to be called when it is shown.
    void place();
    QPushButton* closeButton(const QString& name, const QString& said);
    bool event(QEvent* e) override;
    bool eventFilter(QObject* watched, QEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

private:
    int m_wide;
};

} // namespace gyre
