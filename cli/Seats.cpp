// Where the part should stand on the table.
#include "session/Seats.h"
#include "Console.h"

namespace gyre {
namespace {

OrderedJson toldOf(const SeatTry& s) {
    OrderedJson out{{"seat", list(s.seat)}, {"turn", s.turnDegrees}, {"onTable", s.onTable}};
    if (!s.onTable) return out;
    out["seconds"] = s.seconds;
    out["goes"] = s.goes();
    out["measured"] = s.measured;
    if (!s.leaves.empty()) out["leaves"] = s.leaves;
    if (s.goes() && s.room < 1e6) out["room"] = s.room;
    return out;
}

std::string wordsOf(const SeatTry& s) {
    return fmt::format("at {:g} {:g} {:g}, turned by {:g}°: {}", s.seat.x(), s.seat.y(), s.seat.z(), s.turnDegrees,
                       s.goes() ? fmt::format("{:.0f} s, {:.1f} mm of room to the ends of the travel", s.seconds, s.room)
                                : s.leaves + (s.beyond > 0.0 ? " beyond the travel" : ""));
}

} // namespace

int seats(const Console& c, const std::string& file, const std::string& out) {
    const auto opened = openAndCompute(c, file, 0.5);
    if (!opened) return c.failed(opened.error());
    Opened& o = **opened;
    Progress progress(c.listener());
    const auto map = seatMap(*o.results.place, o.job, o.results.operations, progress);
    if (!map) return c.failed(map.error());
    if (!out.empty()) {
        if (!map->best) return c.failed({"at none of these places all of it stays within the travel", file, "Change the machine, the clamping or the tools", false});
        o.job.seat = map->best->seat;
        o.job.seatTurnDegrees = map->best->turnDegrees;
        if (const auto ok = saveBeside(o.job, file, out); !ok) return c.failed(ok.error());
    }
    if (c.json) {
        OrderedJson places = OrderedJson::array();
        for (const SeatTry& s : map->places) places.push_back(toldOf(s));
        fmt::print(c.out, "{}\n",
                   textOf(OrderedJson{{"present", toldOf(map->present)}, {"best", map->best ? toldOf(*map->best) : OrderedJson()}, {"places", places}}, 1));
        return kExitOk;
    }
    fmt::print(c.out, "as it stands, {}\n", wordsOf(map->present));
    if (map->best)
        fmt::print(c.out, "best, {}\n", wordsOf(*map->best));
    else
        fmt::print(c.out, "at none of {} places all of it stays within the travel\n", map->places.size());
    return kExitOk;
}

} // namespace gyre
