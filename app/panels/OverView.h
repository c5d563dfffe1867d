// A card that lies over the upper left of the view until it is closed.
#pragma once
#include <QFrame>

class QLabel;
class QVBoxLayout;

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
    /// The column of the card, begun with its heading and its cross. @param said  what the cross does
    QVBoxLayout* begin(const QString& closeName, const QString& said);
    /// A line in soft ink: what there is to wait for, or why there is nothing.
    QLabel* softLine(const QString& name, QVBoxLayout* column);
    QLabel* m_heading = nullptr;
    bool event(QEvent* e) override;
    bool eventFilter(QObject* watched, QEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

private:
    int m_wide;
};

} // namespace gyre
