// The Prove bench's list: all findings of the job, gravest first, and the button that proves.
#pragma once
#include "model/OpenJob.h"
#include <QImage>
#include <QSet>
#include <QWidget>
#include <functional>

class QLabel;
class QVBoxLayout;
class QPushButton;

namespace gyre {

class Route;
class StockShow;
class FindingsPanel : public QWidget {
    Q_OBJECT
public:
    FindingsPanel(OpenJob& open, StockShow& stock, Route& route, QWidget* parent = nullptr);
    /// What is seen of the job, for pages.
    void setSeen(std::function<QImage()> seen) { m_seen = std::move(seen); }
    /// How far the stock that is shown is off the part, as an HTML page.
    void storeComparisonAs(const QString& file);

protected:
    void showEvent(QShowEvent* e) override;

private:
    void refresh();
    void showGroups(const std::vector<Finding>& findings);
    void showPlaces(int at);
    QSet<QString> m_unfolded; ///< kinds of findings
    QString m_shown;          ///< key of what stands there
    std::function<QImage()> m_seen;
    OpenJob& m_open;
    StockShow& m_stock;
    Route& m_route;
    QLabel* m_summary = nullptr;
    QVBoxLayout* m_list = nullptr;
    QPushButton* m_prove = nullptr;
};

} // namespace gyre
