#include "post/ProgramWords.h"
#include "base/Text.h"
#include "form/Form.h"
#include "machine/Machine.h"
#include <set>

namespace gyre {
namespace {

constexpr int kLargestNumber = 9'999'999;
using P = ProgramWords;

Form<P> jobsOwn() {
    static constexpr const char* kOffsets[] = {"G54", "G55", "G56", "G57", "G58", "G59"};
    std::vector<Form<P>::Option<int>> offsets{{0, "none", "none"}};
    for (int i = 0; i < 6; ++i) offsets.push_back({54 + i, kOffsets[i], kOffsets[i]});
    return Form<P>("what the control wants to read")
        .choice("units", &P::inch, {{false, "mm", "millimetres"}, {true, "in", "inches"}}, "Unit of length")
        .choice("offset", &P::offset, offsets, "Work offset")
        .choice("programs", &P::split,
                {{ProgramSplit::One, "one", "one program"},
                 {ProgramSplit::Tools, "tools", "a program for each tool"},
                 {ProgramSplit::Operations, "operations", "a program for each operation"}},
                "How the route is divided");
}

Form<P> controlsOwn() {
    return Form<P>("what the control wants to read")
        .count("numberStep", &P::numberStep, 0, 1000, "Step of block numbers; 0: none")
        .count("numberWrap", &P::numberWrap, 100, kLargestNumber, "Block numbers begin again beyond this")
        .choice("dwell", &P::dwellMs, {{false, "s", "seconds"}, {true, "ms", "milliseconds"}}, "Unit of the control's waits")
        .choice("rapids", &P::rapidsAsFeed, {{false, "rapid", "rapid"}, {true, "feed", "feed at the rapids' rate, where rapids are not straight"}},
                "Rapids along the path")
        .length("arcs", &P::arcs, 0.0, 1.0, "Straight moves that keep within so much of a circle or helix are written as one; 0: none")
        .choice("tapping", &P::tapPerTurn, {{false, "minute", "a minute"}, {true, "turn", "a turn"}}, "Feed of taps")
        .count("rigidTap", &P::rigidTap, 0, 999, "M code before a tap that couples spindle and feed; 0: none")
        .count("flood", &P::flood, 1, 999, "M code of coolant from outside")
        .count("mist", &P::mist, 1, 999, "M code of mist")
        .count("through", &P::through, 1, 999, "M code of coolant through the tool")
        .count("coolantOff", &P::coolantOff, 1, 999, "M code that ends coolant")
        .text("lengthCheck", &P::lengthCheck, 200,
              "Block of the control that stops when another tool length is loaded, with {tool} and {length}; the machine's when empty")
        .check([](const JsonView& v, const P& w) {
            for (const int code : {w.rigidTap, w.flood, w.mist, w.through, w.coolantOff})
                if (code == 3 || code == 4 || code == 5 || code == 6 || code == 30) v.complain("M" + std::to_string(code) + " means something else already");
            if (std::set<int>{w.flood, w.mist, w.through, w.coolantOff, w.rigidTap}.size() < 5) v.complain("two codes of coolant or taps are the same");
            if (!isOneBlock(w.lengthCheck)) v.complain("'lengthCheck' must be one block");
            if (!w.lengthCheck.empty() && w.lengthCheck.find("{length}") == std::string::npos) v.complain("'lengthCheck' must hold {length}");
        })
        .settled([](P& w) {
            for (int* code : {&w.rigidTap, &w.flood, &w.mist, &w.through, &w.coolantOff})
                if (*code < 40 && *code > 0) *code += 40;
            int next = 500;
            for (std::set<int> seen; int* code : {&w.rigidTap, &w.flood, &w.mist, &w.through, &w.coolantOff})
                while (!seen.insert(*code).second) *code = ++next;
            if (!w.lengthCheck.empty()) w.lengthCheck += " {length}";
        });
}

} // namespace

ProgramWords saidOn(const Machine& machine, ProgramWords words) {
    if (words.lengthCheck.empty()) words.lengthCheck = machine.lengthCheck;
    return words;
}

const Form<P>& programForm() {
    static const Form<P> form =
        jobsOwn().with(controlsOwn()).text("dialect", &P::dialect, 200, "How programs are spelled: tip, joints, cldata, or a dialect file beside the job").changesOnly();
    return form;
}

const Form<P>& controlForm() {
    static const Form<P> form = controlsOwn()
                                    .count("places", &P::placesMm, 1, 6, "Decimal places of millimetres")
                                    .count("placesInch", &P::placesInch, 1, 7, "Decimal places of inches")
                                    .count("placesAngle", &P::placesAngle, 1, 7, "Decimal places of degrees")
                                    .changesOnly();
    return form;
}

} // namespace gyre
