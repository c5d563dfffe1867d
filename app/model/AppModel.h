// What is open in the window, and the parts of the window's model that work on it.
#pragma once
#include "model/OpenJob.h"

namespace gyre {

class Along;
class Closer;
class Dialects;
class FlankShow;
class Holes;
class MarksShow;
class Mending;
class Milling;
class Picks;
class Planes;
class Programs;
class Route;
class SeatShow;
class SetUp;
class Revision;
class RowsAhead;
class Fits;
class Measures;
class SkyShow;
class StockShow;
class ToolShelf;
class ShopProgram;
class StandStill;
class Variants;

class AppModel : public OpenJob {
    Q_OBJECT
public:
    explicit AppModel(QObject* parent = nullptr);
    ~AppModel() override;

    // Each has a file of its own name.
    [[nodiscard]] Route& route() const;             ///< operations come, go, move
    [[nodiscard]] Picks& picks() const;             ///< what a click in the view is for
    [[nodiscard]] SetUp& setUp() const;             ///< bodies and where they stand
    [[nodiscard]] ToolShelf& tools() const;         ///< tools of the job
    [[nodiscard]] Revision& revision() const;       ///< the part has changed
    [[nodiscard]] Holes& holes() const;             ///< holes and work in them
    [[nodiscard]] Planes& planes() const;           ///< work planes
    [[nodiscard]] Mending& mending() const;         ///< construction on the part
    [[nodiscard]] FlankShow& flank() const;         ///< can a cutter's side follow it?
    [[nodiscard]] Milling& milling() const;         ///< milling, and the sheet beside the view
    [[nodiscard]] Along& along() const;             ///< work along walls, curves, edges
    [[nodiscard]] Programs& programs() const;       ///< NC
    [[nodiscard]] ShopProgram& shopProgram() const; ///< NC that a hand has changed
    [[nodiscard]] Dialects& dialects() const;       ///< how it is spelled
    [[nodiscard]] StockShow& stock() const;         ///< the stock as it is cut, in place of the part
    [[nodiscard]] SkyShow& sky() const;             ///< all directions at the present place
    [[nodiscard]] Measures& measures() const;
    [[nodiscard]] StandStill& standStill() const; ///< directions instead of an axis that turns
    [[nodiscard]] Fits& fits() const;             ///< which assemblies do the work
    [[nodiscard]] Variants& variants() const;     ///< several ways of doing it
    [[nodiscard]] RowsAhead& rowsAhead() const;   ///< rows with another choice, before it is taken
    [[nodiscard]] Closer& closer() const;         ///< a closer look there
    [[nodiscard]] SeatShow& seats() const;        ///< where the part should stand
    [[nodiscard]] MarksShow& marks() const;       ///< the marks on the surface there

signals:
    void cardOpened(const QObject* card); ///< over the view: it takes the place of any other

private:
    struct Parts;
    std::unique_ptr<Parts> m_parts;
};

} // namespace gyre
