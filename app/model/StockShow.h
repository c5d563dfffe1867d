// The stock over the route in the window: as it stands where the playhead is, made away from the window's thread.
#pragma once
#include "geom/TriangleMesh.h"
#include "operation/StageCache.h"
#include <QObject>
#include <QString>
#include <QThread>
#include <memory>
#include <optional>
#include <vector>

namespace gyre {

class AppModel;
class Progress;

/// By what its surface is coloured: who made it, or how far it is off the part.
enum class StockBy { Operation, Deviation };

class StockShow : public QObject {
    Q_OBJECT
public:
    explicit StockShow(AppModel& model);
    ~StockShow() override;

    /// What is drawn in place of the part; nothing: the part itself.
    void show(std::optional<StockBy> by);
    [[nodiscard]] std::optional<StockBy> shown() const { return m_by; }
    void cycle(); ///< the part, the stock, its deviation

    struct Band {
        QString name;
        double share = 0.0; ///< of the surface, 0 … 1
    };
    struct Picture {
        StockBy by = StockBy::Operation;
        TriangleMesh skin;                           ///< the face of a triangle is a number in `bands`
        std::vector<Band> bands;                     ///< by operation: as it was set up, then each up to the present one; by deviation: from gone to standing
        double cell = 0.0, volume = 0.0, fine = 0.0; ///< mm, mm³; deviations below `fine` mm are not told
        std::size_t location = 0;
    };
    /// Null until it is there; it stays while the next one is made.
    [[nodiscard]] const std::shared_ptr<const Picture>& picture() const { return m_picture; }
    [[nodiscard]] QString trouble() const { return m_trouble; } ///< why there is none
    [[nodiscard]] bool settled() const { return !m_thread && !m_again; }
    /// The bands of a deviation that stand for what is as modelled.
    static constexpr std::size_t kWithin = 2;

signals:
    void changed();

private:
    void ask();
    void askAnew(); ///< calls off what is under way first
    void start();
    void end();
    AppModel& m_model;
    std::optional<StockBy> m_by;
    std::shared_ptr<const Picture> m_picture;
    QString m_trouble;
    std::shared_ptr<StageCache> m_moments;
    std::unique_ptr<QThread> m_thread;
    std::shared_ptr<Progress> m_progress;
    bool m_again = false;
};

} // namespace gyre
