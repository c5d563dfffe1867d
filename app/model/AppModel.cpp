#include "model/AppModel.h"
#include "milling/Sheet.h"
#include "model/Along.h"
#include "model/Closer.h"
#include "model/Dialects.h"
#include "model/Fits.h"
#include "model/FlankShow.h"
#include "model/Holes.h"
#include "model/MarksShow.h"
#include "model/Measures.h"
#include "model/Mending.h"
#include "model/Milling.h"
#include "model/Picks.h"
#include "model/Planes.h"
#include "model/Programs.h"
#include "model/Revision.h"
#include "model/Route.h"
#include "model/RowsAhead.h"
#include "model/SeatShow.h"
#include "model/SetUp.h"
#include "model/ShopProgram.h"
#include "model/SkyShow.h"
#include "model/StandStill.h"
#include "model/StockShow.h"
#include "model/ToolShelf.h"
#include "model/Variants.h"

namespace gyre {

struct AppModel::Parts {
    explicit Parts(AppModel& m)
        : route(m), picks(m), setUp(m), revision(m), tools(m), holes(m), planes(m), mending(m), flank(m), milling(m), along(m), programs(m), dialects(m), stock(m),
          sky(m), rowsAhead(m), closer(m), fits(m), standStill(m), measures(m), marks(m), seats(m), variants(m), shopProgram(m) {}
    Route route;
    Picks picks;
    SetUp setUp;
    Revision revision;
    ToolShelf tools;
    Holes holes;
    Planes planes;
    Mending mending;
    FlankShow flank;
    Milling milling;
    Along along;
    Programs programs;
    Dialects dialects;
    StockShow stock;
    SkyShow sky;
    RowsAhead rowsAhead;
    Closer closer;
    Fits fits;
    StandStill standStill;
    Measures measures;
    MarksShow marks;
    SeatShow seats;
    Variants variants;
    ShopProgram shopProgram;
};
Route& AppModel::route() const { return m_parts->route; }
Picks& AppModel::picks() const { return m_parts->picks; }
SetUp& AppModel::setUp() const { return m_parts->setUp; }
Revision& AppModel::revision() const { return m_parts->revision; }
ToolShelf& AppModel::tools() const { return m_parts->tools; }
Holes& AppModel::holes() const { return m_parts->holes; }
Planes& AppModel::planes() const { return m_parts->planes; }
Mending& AppModel::mending() const { return m_parts->mending; }
FlankShow& AppModel::flank() const { return m_parts->flank; }
Milling& AppModel::milling() const { return m_parts->milling; }
Along& AppModel::along() const { return m_parts->along; }
Programs& AppModel::programs() const { return m_parts->programs; }
Dialects& AppModel::dialects() const { return m_parts->dialects; }
StockShow& AppModel::stock() const { return m_parts->stock; }
SkyShow& AppModel::sky() const { return m_parts->sky; }
RowsAhead& AppModel::rowsAhead() const { return m_parts->rowsAhead; }
Closer& AppModel::closer() const { return m_parts->closer; }
SeatShow& AppModel::seats() const { return m_parts->seats; }
MarksShow& AppModel::marks() const { return m_parts->marks; }
Measures& AppModel::measures() const { return m_parts->measures; }
StandStill& AppModel::standStill() const { return m_parts->standStill; }
Fits& AppModel::fits() const { return m_parts->fits; }
ShopProgram& AppModel::shopProgram() const { return m_parts->shopProgram; }
Variants& AppModel::variants() const { return m_parts->variants; }

AppModel::AppModel(QObject* parent) : OpenJob(parent) {
    // The parts hear of these before any panel does.
    connect(this, &OpenJob::exchanged, this, [this] {
        closer().look(std::nullopt);
        mending().light(-1);
        holes().reset();
        flank().reset();
        picks().forget();
        setUp().holdBody(-1);
        tools().reset();
        programs().reset();
    });
    connect(this, &OpenJob::benchChanged, this, [this] { picks().setMode(PickMode::None); });
    connect(this, &OpenJob::placeChanged, this, [this] { flank().askAgain(); });
    connect(this, &OpenJob::partOpened, this, [this] { setUp().propose(); });
    connect(this, &OpenJob::findingAsked, this, [this](const Finding& f) {
        // What is said of the stock is seen on the stock.
        if ((f.code.find("stock") != std::string::npos || f.code == "piece-loose") && !stock().shown()) stock().show(StockBy::Operation);
    });
    m_parts = std::make_unique<Parts>(*this);
}
AppModel::~AppModel() = default;

} // namespace gyre
