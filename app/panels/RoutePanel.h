// The route: operations as stations on a line.
#pragma once
#include "model/AppModel.h"
#include <QWidget>

class QLabel;
class QScrollArea;
class QVBoxLayout;

namespace gyre {

class Station;

class RoutePanel : public QWidget {
    Q_OBJECT
public:
    explicit RoutePanel(AppModel& model, QWidget* parent = nullptr);
    /// What the menu of work along walls, curves and edges offers.
    struct FollowKind {
        QString id, words;
        OperationKind kind;
        BreakEdges edges;
    };
    [[nodiscard]] static std::vector<FollowKind> followKinds();
    [[nodiscard]] static QString millWords(MillShape shape); ///< in the list of new operations
    void rename(const QString& id);                          ///< asks for a name where it stands

private:
    void rebuild();
    void refresh();
    AppModel& m_model;
    QLabel* m_heading = nullptr;
    QVBoxLayout *m_column = nullptr, *m_stationsColumn = nullptr;
    QScrollArea* m_scroll = nullptr;
    QString m_shown; ///< the selected station that was last brought into sight
    std::vector<Station*> m_stations;
};

/// One operation: the cutter's silhouette, name, time and five marks, each of its own shape.
class Station : public QWidget {
    Q_OBJECT
public:
    Station(AppModel& model, const QString& id, QWidget* parent);
    [[nodiscard]] QString id() const { return m_id; }
    void rename();

protected:
    void paintEvent(QPaintEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void contextMenuEvent(QContextMenuEvent* e) override;
    void focusInEvent(QFocusEvent* e) override;
    bool eventFilter(QObject* object, QEvent* e) override;

private:
    AppModel& m_model;
    QString m_id;
};

} // namespace gyre
