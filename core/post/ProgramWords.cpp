#include "post/ProgramWords.h"
#include <fmt/format.h>

namespace gyre {
namespace {

constexpr int kLargestNumber = 9'999'999;

bool plainText(const std::string& text) { return text.find_first_of("\n\r%") == std::string::npos; }

} // namespace

ProgramWords programWordsFromJson(const JsonView& v) {
    v.allow({"units", "offset", "numberStep", "numberWrap", "dwell", "rapids", "tapping", "rigidTap", "flood", "mist", "through", "coolantOff", "lengthCheck"});
    ProgramWords w;
    w.inch = v.choice("units", {"mm", "in"}, 0) == 1;
    w.offset = v.choice("offset", {"none", "G54", "G55", "G56", "G57", "G58", "G59"}, 1);
    if (w.offset > 0) w.offset += 53;
    w.numberStep = v.integer("numberStep", 0, 1000, w.numberStep);
    w.numberWrap = v.integer("numberWrap", 100, kLargestNumber, w.numberWrap);
    w.dwellMs = v.choice("dwell", {"s", "ms"}, 0) == 1;
    w.rapidsAsFeed = v.choice("rapids", {"rapid", "feed"}, 0) == 1;
    w.tapPerTurn = v.choice("tapping", {"minute", "turn"}, 0) == 1;
    w.rigidTap = v.integer("rigidTap", 0, 999, 0);
    w.flood = v.integer("flood", 1, 999, w.flood);
    w.mist = v.integer("mist", 1, 999, w.mist);
    w.through = v.integer("through", 1, 999, w.through);
    w.coolantOff = v.integer("coolantOff", 1, 999, w.coolantOff);
    w.lengthCheck = v.text("lengthCheck", "", 200);
    if (!plainText(w.lengthCheck)) v.complain("'lengthCheck' must be one block");
    if (!w.lengthCheck.empty() && w.lengthCheck.find("{length}") == std::string::npos) v.complain("'lengthCheck' must hold {length}");
    return w;
}

OrderedJson programWordsToJson(const ProgramWords& w) {
    const ProgramWords plain;
    OrderedJson j = OrderedJson::object();
    const auto put = [&](const char* key, const auto& value, bool differs) {
        if (differs) j[key] = value;
    };
    put("units", w.inch ? "in" : "mm", w.inch);
    put("offset", w.offset == 0 ? std::string("none") : fmt::format("G{}", w.offset), w.offset != plain.offset);
    put("numberStep", w.numberStep, w.numberStep != plain.numberStep);
    put("numberWrap", w.numberWrap, w.numberWrap != plain.numberWrap);
    put("dwell", "ms", w.dwellMs);
    put("rapids", "feed", w.rapidsAsFeed);
    put("tapping", "turn", w.tapPerTurn);
    put("rigidTap", w.rigidTap, w.rigidTap != 0);
    put("flood", w.flood, w.flood != plain.flood);
    put("mist", w.mist, w.mist != plain.mist);
    put("through", w.through, w.through != plain.through);
    put("coolantOff", w.coolantOff, w.coolantOff != plain.coolantOff);
    put("lengthCheck", w.lengthCheck, !w.lengthCheck.empty());
    return j;
}

} // namespace gyre
