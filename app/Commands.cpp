#include "Commands.h"
#include <algorithm>
#include <numeric>
#include <vector>

namespace gyre {
namespace {

// The trade's own words first; an action may have many.
const CommandWords kCommands[] = {
    {"action.open", "Any bench", "load import file step stp iges stl part job"},
    {"action.save", "Any bench", "store write file"},
    {"action.saveAs", "Any bench", "store copy file"},
    {"action.undo", "Any bench", "back revert"},
    {"action.redo", "Any bench", "again forward"},
    {"action.newOperation", "Cut, the route", "surface finishing rows scan 5 axis five 5-axis simultaneous toolpath add"},
    {"action.holeWork", "Cut, the route", "drill drilling holes spot peck tap"},
    {"action.holeStep0", "Cut, the route", "drill drilling"},
    {"action.holeStep", "Cut, the route", "drill drilling cycle tap ream bore spot"},
    {"action.mill.rough", "Cut, the route", "roughing clear adaptive hog stock 3 axis"},
    {"action.mill.round", "Cut, the route", "turn rotary wrapped 4 axis four 4-axis lathe"},
    {"action.mill.follow", "Cut, the route", "engrave engraving slot groove text"},
    {"action.mill.face", "Cut, the route", "facing deck flat"},
    {"action.mill.", "Cut, the route", "pocket contour profile 2d indexed 3+2 4 axis"},
    {"action.mill", "Cut, the route", "pocket contour 2d indexed 3+2 wrapped"},
    {"action.helicalGroove", "Cut, the route", "cam worm thread helix wrapped rotary 4 axis"},
    {"action.along.swarf", "Cut, the route", "swarf side cutting flank ruled wall"},
    {"action.along.curve", "Cut, the route", "guide trim curve channel slot"},
    {"action.along.", "Cut, the route", "deburr deburring break edges chamfer burr sharp"},
    {"action.operation.remove", "Cut, the route", "delete erase clear operation"},
    {"action.operation.rename", "Cut, the route", "name title call operation"},
    {"action.operation.duplicate", "Cut, the route", "copy variant clone operation"},
    {"action.operation.switch", "Cut, the route", "disable enable suppress off on skip operation"},
    {"action.operation.up", "Cut, the route", "order earlier before sort operation"},
    {"action.operation.down", "Cut, the route", "order later after sort operation"},
    {"action.sheet", "Cut, the view", "unroll unrolled flat develop wrapped"},
    {"action.bench0", "", "set-up setup set up origin zero datum wcs work offset stock fixture clamp machine seat"},
    {"action.bench1", "", "recipe toolpath tool axis tilt lead program operations"},
    {"action.bench2", "", "simulate simulation verify collision check holder shank machine"},
    {"action.bench3", "", "post nc g-code gcode program output control code"},
    {"action.foldRoute", "Cut, the route", "panel narrow hide collapse silhouettes"},
    {"action.onlyStage", "Cut, the recipe", "panel narrow hide collapse cards"},
    {"action.peel", "Cut, the recipe", "stage hide show bare pattern"},
    {"action.closer", "Cut and Prove", "measure compare deviation left over stock what stands inspect"},
    {"action.machine", "Cut and Prove", "simulate machine kinematics rotary table head"},
    {"action.show.", "The view", "hide visible fade transparent"},
    {"action.proposeSetup", "Set up", "stock origin seat automatic"},
    {"action.tools", "Cut and Set up", "tool library cutter holder stick-out magazine assembly"},
    {"action.mend.", "Set up, mends", "construct construction build geometry"},
    {"action.flank", "The view", "swarf ruled twist side cutting measure"},
    {"action.section", "The view", "section clip plane cut"},
    {"action.planeOnFace", "Set up", "work plane wcs indexed tilted 3+2"},
    {"action.frame", "The view", "zoom fit all"},
    {"action.frameWork", "The view", "zoom selection fit selected"},
    {"action.from", "The view", "standard views top bottom front left right isometric side plan"},
    {"action.toolFaded", "The view", "holder transparent fade hide tool"},
    {"action.play", "The tape", "simulate simulation play run animate"},
    {"action.nextHazard", "The tape", "collision gouge near holder"},
    {"action.hazardBefore", "The tape", "collision gouge near holder"},
    {"action.prove", "Prove", "collision check verify simulate holder machine safe"},
    {"action.cancel", "Any bench", "stop abort"},
    {"action.theme", "Any bench", "dark night light colours"},
    {"action.units", "Any bench", "inch inches mm millimetre metric imperial"},
    {"action.help", "Any bench", "help manual guide documentation how"},
    {"action.tour", "Any bench", "introduction tutorial start getting started first steps"},
    {"action.pick", "The view", "select selection choose"},
    {"action.stopPicking", "The view", "select done"},
};

} // namespace

const CommandWords* commandWords(const QString& action) {
    const CommandWords* best = nullptr;
    std::size_t longest = 0;
    for (const CommandWords& c : kCommands) {
        const QString name = c.name;
        if (action.startsWith(name) && static_cast<std::size_t>(name.size()) > longest) {
            best = &c;
            longest = static_cast<std::size_t>(name.size());
        }
    }
    return best;
}

int lettersApart(const QString& a, const QString& b) {
    std::vector<int> row(static_cast<std::size_t>(b.size()) + 1);
    std::iota(row.begin(), row.end(), 0);
    for (int i = 1; i <= a.size(); ++i) {
        int corner = row[0];
        row[0] = i;
        for (int k = 1; k <= b.size(); ++k) {
            const auto at = static_cast<std::size_t>(k);
            const int changed = corner + (a[i - 1].toLower() == b[k - 1].toLower() ? 0 : 1);
            corner = row[at];
            row[at] = std::min({row[at] + 1, row[at - 1] + 1, changed});
        }
    }
    return row.back();
}

} // namespace gyre
