// The route: operations as stations on a line.
#pragma once
#include "model/OpenJob.h"
#include <QWidget>

class QLabel;
class QPushButton;
class QScrollArea;
class QVBoxLayout;

namespace gyre {

enum class BreakEdges;
enum class MillShape;
class Along;
class Holes;
class Milling;
class Route;
class Station;

class RoutePanel : public QWidget {
    Q_OBJECT
public:
    RoutePanel(OpenJob& open, Route& route, Milling& milling, Holes& holes, Along& along, QWidget* parent = nullptr);
    /// What the menu of work along walls, curves and edges offers.
    struct AlongKind {
        QString id, words;
        OperationKind kind;
        BreakEdges edges;
    };
    [[nodiscard]] static std::vector<AlongKind> alongKinds();
    [[nodiscard]] static QString millWords(MillShape shape); ///< in the list of new operations
    void rename(const QString& id);                          ///< asks for a name where it stands
    /// Only silhouettes, where there is little room.
    void setFolded(bool on);
    [[nodiscard]] bool folded() const { return m_folded; }

signals:
    void variantsAsked(); ///< of the operation in hand
    void foldAsked();

protected:
    bool eventFilter(QObject* object, QEvent* e) override;

private:
    [[nodiscard]] QString timeWords() const;
    void rebuild();
    void refresh();
    QVBoxLayout* makeButtons();
    /// Where a station that is dragged to this height would stand: before which other, and where its line is drawn.
    [[nodiscard]] std::pair<QString, int> dropAt(const QString& id, int y) const;
    void dragged(const QString& id, const QPoint& global, bool done);
    OpenJob& m_open;
    Route& m_route;
    Milling& m_milling;
    Holes& m_holes;
    Along& m_along;
    QLabel* m_heading = nullptr;
    QPushButton* m_fold = nullptr;
    QVBoxLayout* m_stationsColumn = nullptr;
    QWidget *m_buttons = nullptr, *m_dropLine = nullptr, *m_inside = nullptr;
    bool m_folded = false;
    QScrollArea* m_scroll = nullptr;
    QString m_shown; ///< the selected station that was last brought into sight
    std::vector<Station*> m_stations;
};

/// One operation: the cutter's silhouette, name, time and five marks, each of its own shape.
class Station : public QWidget {
    Q_OBJECT
public:
    Station(OpenJob& open, Route& route, Holes& holes, const QString& id, QWidget* parent);
    [[nodiscard]] QString id() const { return m_id; }
    void rename();

signals:
    void variantsAsked();
    void dragged(const QPoint& global, bool done);

protected:
    void paintMarks(QPainter& p, const Recipe& r) const;
    void paintBracket(QPainter& p, const Recipe& r) const;
    [[nodiscard]] QString workWords(const Recipe& r, const Assembly* tool) const;
    void paintEvent(QPaintEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;
    void focusInEvent(QFocusEvent* e) override;
    bool eventFilter(QObject* object, QEvent* e) override;

private:
    OpenJob& m_open;
    Route& m_route;
    Holes& m_holes;
    QString m_id;
    QPoint m_pressed;
    bool m_dragging = false;
};

} // namespace gyre
