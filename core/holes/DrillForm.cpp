#include "holes/DrillForm.h"
#include "form/Form.h"
#include "holes/DrillSpec.h"

namespace gyre {

const Form<DrillSpec>& drillForm() {
    using D = DrillSpec;
    static const Form<D> form = [] {
        std::vector<Form<D>::Option<Cycle>> cycles;
        for (int i = 0; i < kCycles; ++i) cycles.push_back({static_cast<Cycle>(i), cycleName(static_cast<Cycle>(i)), cycleName(static_cast<Cycle>(i))});
        return Form<D>("work in holes")
            .choice("cycle", &D::cycle, cycles, "Cycle")
            .choice("by", &D::toGeometry, {{true, "hole", "the end of the hole"}, {false, "depth", "a depth of"}}, "Where the depth comes from")
            .length("depth", &D::depth, 0.0, 1e4, "Depth below the mouth")
            .length("breakthrough", &D::breakthrough, 0.0, 1e3, "How far beyond the end of through holes")
            .choice("reached", &D::fullDiameter, {{true, "fullDiameter", "the full diameter"}, {false, "point", "the point"}}, "What reaches the depth")
            .length("widen", &D::widen, -100.0, 100.0, "How far the cone's edge stands outside the hole")
            .step(0.1)
            .length("peck", &D::peck, 0.01, 1e3, "Depth of one peck")
            .number("dwell", &D::dwell, 0.0, 60.0, "Seconds at the bottom")
            .step(0.1)
            .length("pitch", &D::pitch, 0.05, 50.0, "Pitch of the thread")
            .step(0.25)
            .length("above", &D::above, 0.01, 1e3, "Height over the mouth where feed starts")
            .flag("anyTool", &D::anyTool, "A tool that does not suit", "used all the same", "not used")
            .flag("canned", &D::canned, "How programs say it", "a cycle where known", "plain moves")
            .choice("order", &D::shortest, {{true, "shortest", "of the shortest way"}, {false, "picked", "they were taken in"}}, "Order of the holes");
    }();
    return form;
}

const Form<HoleRef>& holeRefForm() {
    using H = HoleRef;
    static const Form<H> form = Form<H>("a hole")
                                    .place("mouth", &H::mouth, 1e5, "Middle of its mouth")
                                    .length("diameter", &H::diameter, 0.0, 1e4, "Diameter")
                                    .flag("turned", &H::turned, "Entered from", "its other end", "the end that was found")
                                    .writtenWhenChanged();
    return form;
}

} // namespace gyre
