// The stock over the route in the window: as it stands where the playhead is, made away from the window's thread.
#pragma once
#include "geom/TriangleMesh.h"
#include "model/Apart.h"
#include "operation/Recipe.h"
#include "session/Comparison.h"
#include "session/RouteStock.h"
#include <QObject>
#include <QStringList>
#include <functional>
#include <memory>
#include <optional>
#include <vector>

namespace gyre {

class AppModel;

/// By what its surface is coloured: which operation made it, with which tool, how long ago; or how far it is off the part.
enum class StockBy { Operation, Tool, Age, Deviation };

class StockShow : public QObject {
    Q_OBJECT
public:
    explicit StockShow(AppModel& model);

    /// What is drawn in place of the part; nothing: the part itself.
    void show(std::optional<StockBy> by);
    [[nodiscard]] std::optional<StockBy> shown() const { return m_by; }
    void cycle();     ///< the part, the stock, its deviation
    void showStock(); ///< coloured as it was last; where it is shown, coloured by the next: operation, tool, age

    struct Band {
        QString name;
        double share = 0.0; ///< of the surface, 0 … 1
    };
    struct Picture {
        StockBy by = StockBy::Operation;
        std::shared_ptr<const TriangleMesh> skin; ///< the face of a triangle is a number in `bands`
        std::vector<Band> bands; ///< as it was set up, then by operation (or age) each up to the present one, by tool each; by deviation: from gone to standing
        double cell = 0.0, volume = 0.0, fine = 0.0; ///< mm, mm³; deviations below `fine` mm are not told
        std::size_t location = 0;
        std::vector<float> off;                          ///< mm, for every two triangles, by deviation alone
        std::shared_ptr<const StockComparison> compared; ///< by deviation alone
        QStringList cutBy;                               ///< names of the operations, as surfaces count them: from 1
        bool old = false;                                ///< a path that it was cut with is not that of the job as it stands now
        /// The worst places: those that are gone, then the areas of the part that something stands over, each where most does.
        [[nodiscard]] std::size_t places() const { return compared ? compared->gone.size() + compared->areas.size() : 0; }
        [[nodiscard]] bool gone(std::size_t place) const { return place < compared->gone.size(); }
        [[nodiscard]] const StockPlace& place(std::size_t i) const { return gone(i) ? compared->gone[i] : compared->areas[i - compared->gone.size()].worst; }
        /// The triangle that a ray meets first, of what is drawn.
        [[nodiscard]] std::optional<std::size_t> hit(const Vec3& from, const Vec3& way, const std::function<bool(const Vec3&)>& drawn) const;
    };
    /// Null until it is there; it stays while the next one is made.
    [[nodiscard]] const std::shared_ptr<const Picture>& picture() const { return m_picture; }
    [[nodiscard]] QString trouble() const { return m_trouble; } ///< why there is none
    /// What cutting the selected operation is like; null until it is known, and while no stock is shown.
    [[nodiscard]] std::shared_ptr<const CutFigures> figures() const;
    [[nodiscard]] bool settled() const { return !m_apart.busy() && !m_again; }
    [[nodiscard]] QString placeWords(std::size_t place) const; ///< "▲ 0.31 mm gone · Walls"; in the job's unit
    void goTo(std::size_t place) { emit wentTo(place); }
    /// The bands of a deviation that stand for what is as modelled.
    static constexpr std::size_t kWithin = 2, kMeant = 6;

signals:
    void wentTo(std::size_t place); ///< one of the worst places is to be shown
    void changed();
    void measured(); ///< there are figures, or none any more
    void engagementMeasured();

private:
    void ask();
    void askAnew(); ///< calls off what is under way first
    void start();
    struct Asked;
    struct Done {
        Recipe recipe;
        std::shared_ptr<const OperationResult> result;
        bool present = false; ///< the selected one
    };
    /// The operations up to the selected one that make a path, as it is known now; nothing while one before it is missing.
    [[nodiscard]] std::optional<std::vector<Done>> doneNow() const;
    [[nodiscard]] static TriangleMesh bandsByWork(const Asked& asked, TriangleMesh skin, Picture& to);
    [[nodiscard]] static Result<Picture> pictureOf(const Asked& asked, Progress& progress);
    void measure(const Asked& asked);
    void measureEngagement(const Asked& asked);
    void run(const std::function<void(Progress&)>& work, const std::function<void()>& then);
    AppModel& m_model;
    std::optional<StockBy> m_by;
    StockBy m_colouring = StockBy::Operation; ///< of the stock, when it was last shown
    std::shared_ptr<const Picture> m_picture;
    QString m_trouble;
    std::shared_ptr<StageCache> m_moments;
    Apart m_apart;
    bool m_again = false, m_measuring = false;
    std::shared_ptr<const CutFigures> m_figures;
    std::vector<std::uint64_t> m_figuresOf; ///< what they rest on: the set-up, then the operations up to that one
};

} // namespace gyre
