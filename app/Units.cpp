#include "Units.h"
#include "base/Units.h"
#include <QRegularExpression>
#include <cmath>

namespace gyre {

namespace {

// As many decimals as tell it as finely as it was told.
QString number(double value, int decimals) {
    QString out = QString::number(value, 'f', decimals);
    return out == QString("-") + QString::number(0.0, 'f', decimals) ? out.mid(1) : out;
}

QString converted(const QString& digits, const QString& unit) {
    const double v = digits.toDouble();
    const auto point = digits.indexOf('.');
    const int decimals = point < 0 ? 0 : static_cast<int>(digits.size() - point - 1);
    if (unit == "mm") return number(v / kMmPerInch, std::min(5, decimals + 2));
    if (unit == "m") return number(1000.0 * v / kMmPerInch, std::max(0, decimals - 1));
    if (unit == "mm/min") return number(v / kMmPerInch, std::min(4, decimals + 1));
    if (unit == "cm²") return number(100.0 * v / (kMmPerInch * kMmPerInch), decimals + 1);
    if (unit == "cm³" || unit == "cm³/min") return number(1000.0 * v / (kMmPerInch * kMmPerInch * kMmPerInch), decimals + 1);
    if (unit == "°/mm") return number(v * kMmPerInch, std::max(0, decimals - 1));
    return digits;
}

QString nameOf(const QString& unit) {
    static const std::pair<const char*, const char*> kNames[] = {{"mm/min", "in/min"}, {"cm²", "in²"}, {"cm³", "in³"}, {"cm³/min", "in³/min"}, {"°/mm", "°/in"}};
    for (const auto& [own, inch] : kNames)
        if (unit == own) return inch;
    return "in";
}

} // namespace

QString inUnits(const QString& text, bool inches) {
    if (!inches) return text;
    static const QString kNumber = "-?\\d+(?:\\.\\d+)?";
    // One number or several that share a unit: "0.20 mm", "1 to 2 mm", "3 and 4 mm".
    static const QRegularExpression length(QString("(?<![\\w.])(%1)((?: to | and | or | … | × )(%1))?( ?)(mm/min|mm|cm²|cm³/min|cm³|°/mm|m)(?![\\w²³/])").arg(kNumber));
    static const QRegularExpression diameter("Ø(\\d+(?:\\.\\d+)?)");
    QString out;
    qsizetype at = 0;
    for (auto it = length.globalMatch(text); it.hasNext();) {
        const auto m = it.next();
        const QString unit = m.captured(5);
        out += text.mid(at, m.capturedStart() - at) + converted(m.captured(1), unit);
        if (!m.captured(2).isEmpty()) out += m.captured(2).left(m.captured(2).size() - m.captured(3).size()) + converted(m.captured(3), unit);
        out += m.captured(4) + nameOf(unit);
        at = m.capturedEnd();
    }
    out += text.mid(at);
    QString named;
    at = 0;
    for (auto it = diameter.globalMatch(out); it.hasNext();) {
        const auto m = it.next();
        named += out.mid(at, m.capturedStart() - at) + "Ø" + QString::number(m.captured(1).toDouble() / kMmPerInch, 'g', 4);
        at = m.capturedEnd();
    }
    return named + out.mid(at);
}

QString clockWords(double seconds) { return QString::fromStdString(clockText(seconds)); }

} // namespace gyre
