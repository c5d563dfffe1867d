// What the tape is made of: channels by location and by pixel.
#include "base/Parallel.h"
#include "base/Units.h"
#include "guard/GuardSpec.h"
#include "model/StockShow.h"
#include "motion/Motion.h"
#include "operation/Leans.h"
#include "operation/OperationResult.h"
#include "operation/Workplace.h"
#include "panels/TapePanel.h"
#include "stock/CutFeed.h"
#include <QPainter>
#include <algorithm>
#include <cmath>
#include <utility>

namespace gyre {

// Every pixel's lowest and highest value; where locations are few, a line joins them.
void TapeChart::fill(Channel& c, const std::function<float(std::size_t)>& value, const std::vector<int>& pixel, int width) {
    c.values.resize(pixel.size());
    c.low.assign(static_cast<std::size_t>(width), NAN);
    c.high.assign(static_cast<std::size_t>(width), NAN);
    const auto add = [&](int x, float y) {
        auto &lo = c.low[static_cast<std::size_t>(x)], &hi = c.high[static_cast<std::size_t>(x)];
        lo = std::isfinite(lo) ? std::min(lo, y) : y;
        hi = std::isfinite(hi) ? std::max(hi, y) : y;
    };
    bool any = false;
    float before = NAN;
    for (std::size_t i = 0; i < pixel.size(); ++i) {
        const float v = c.values[i] = value(i);
        const float from = std::exchange(before, v);
        if (!std::isfinite(v)) continue;
        add(pixel[i], v);
        if (i > 0 && std::isfinite(from))
            for (int x = pixel[i - 1] + 1; x < pixel[i]; ++x)
                add(x, from + (v - from) * static_cast<float>(x - pixel[i - 1]) / static_cast<float>(pixel[i] - pixel[i - 1]));
        c.least = any ? std::min(c.least, v) : v;
        c.most = any ? std::max(c.most, v) : v;
        any = true;
    }
}

// In any thread: it knows nothing but what it is given.
TapeChart::Laid TapeChart::lay(const Asked& asked) {
    Laid out;
    const auto& r = asked.result;
    if (!r || !r->path() || r->path()->size() < 2) return out;
    const Toolpath& path = *r->path();
    const std::size_t n = path.size();
    out.along.resize(n, 0.0);
    for (std::size_t i = 1; i < n; ++i) out.along[i] = asked.byTime && r->complete() ? r->motion->timeOf(i) : out.along[i - 1] + (path.tip[i] - path.tip[i - 1]).norm();
    std::vector<int> pixel(n);
    const double whole = std::max(1e-9, out.along.back());
    for (std::size_t i = 0; i < n; ++i) pixel[i] = std::clamp(static_cast<int>(out.along[i] / whole * (asked.width - 1)), 0, asked.width - 1);
    std::vector<std::function<float(std::size_t)>> values;
    const auto channel = [&](const QString& name, const QString& unit, std::function<float(std::size_t)> value) -> Channel& {
        values.push_back(std::move(value));
        Channel c;
        c.name = name;
        c.unit = unit;
        return out.channels.emplace_back(std::move(c));
    };
    std::vector<LeadTilt> lean(n, {NAN, NAN});
    if (r->kind == OperationKind::Swarf) { // along the wall lead and tilt say nothing
        channel(tr("to Z"), "°",
                [&](std::size_t i) { return path.motion[i] == Motion::Cut ? static_cast<float>(degrees(angleBetween(path.axis[i], Vec3::UnitZ()))) : NAN; });
    } else {
        if (asked.recipe) {
            const Leans leans(*r, asked.recipe->axis);
            parallelFor(n, 4096, [&](std::size_t i) { lean[i] = leans.at(i).value_or(LeadTilt{NAN, NAN}); });
        }
        channel(tr("lead"), "°", [&](std::size_t i) { return static_cast<float>(degrees(lean[i].lead)); });
        channel(tr("tilt"), "°", [&](std::size_t i) { return static_cast<float>(degrees(lean[i].tilt)); });
    }
    if (asked.place && r->complete())
        for (int j : asked.place->machine->rotaries())
            channel(QString::fromStdString(asked.place->machine->joints[static_cast<std::size_t>(j)].name), "°", [&, j](std::size_t i) {
                return static_cast<float>(degrees(r->motion->at(r->motion->stepOf[i])[j]));
            }).soft = true;
    if (r->shankClearance.size() == n) {
        Channel& shank = channel(tr("shank"), "mm", [&](std::size_t i) { return path.motion[i] == Motion::Rapid ? NAN : r->shankClearance[i]; });
        if (asked.guarded) shank.demanded = (*asked.guarded)->shankClearance;
        Channel& holder = channel(tr("holder"), "mm", [&](std::size_t i) { return path.motion[i] == Motion::Rapid ? NAN : r->holderClearance[i]; });
        if (asked.guarded) holder.demanded = (*asked.guarded)->holderClearance;
    }
    if (r->cutFeed && r->cutFeed->share.size() == n)
        channel(tr("feed"), "%", [&](std::size_t i) { return path.motion[i] == Motion::Rapid ? NAN : 100.0F * r->cutFeed->share[i]; });
    if (asked.figures && asked.figures->rate.size() == n)
        channel(tr("removal"), "cm³/min", [&](std::size_t i) { return path.motion[i] == Motion::Rapid ? NAN : asked.figures->rate[i]; });
    if (asked.figures && asked.figures->engagement.at.size() == n) {
        const auto& at = asked.figures->engagement.at;
        channel(tr("engaged"), "°", [&](std::size_t i) { return path.motion[i] == Motion::Rapid ? NAN : at[i].angle; });
        channel(tr("chip"), "µm", [&](std::size_t i) { return path.motion[i] == Motion::Rapid ? NAN : 1000.0F * at[i].chip; });
    }
    parallelFor(out.channels.size(), 1, [&](std::size_t c) { fill(out.channels[c], values[c], pixel, asked.width); });
    for (const OpenJob::HazardStretch& h : asked.hazards) out.hazards.emplace_back(h.first, h.last);
    return out;
}

TapeChart::Asked TapeChart::asked() const {
    Asked out{m_open.result(), m_open.place(), {}, {}, {}, {}, std::max(10, plot().width()), m_byTime};
    if (const Recipe* r = m_open.recipe()) {
        out.recipe = *r;
        out.guarded = m_open.job().resolved(*r).guard; // a step is guarded as its parent says
    }
    out.figures = m_stock.figures();
    out.hazards = m_open.hazards();
    return out;
}

// A long path takes longer than the window may stand still: it is laid apart, and what was there before stays until then.
void TapeChart::rebuild() {
    m_old = false;
    constexpr std::size_t kAtOnce = 40'000;
    const auto now = std::make_shared<Asked>(asked());
    if (!now->result || !now->result->path() || now->result->path()->size() <= kAtOnce) {
        m_again = false;
        return take(lay(*now));
    }
    if (m_apart.busy()) {
        m_again = true;
        return;
    }
    auto laid = std::make_shared<Laid>();
    m_apart.run(
        this, [now, laid](Progress&) { *laid = lay(*now); },
        [this, now, laid] {
            if (now->result == m_open.result()) take(std::move(*laid));
            if (std::exchange(m_again, false)) m_old = true;
            update();
        });
}

void TapeChart::take(Laid laid) {
    m_channels = std::move(laid.channels);
    m_lengths = std::move(laid.along);
    m_hazards = std::move(laid.hazards);
    for (Channel& c : m_channels) c.shown = shows(c.name);
    m_picture = QPixmap(size() * devicePixelRatioF());
    m_picture.setDevicePixelRatio(devicePixelRatioF());
    m_picture.fill(Qt::transparent);
    QPainter picture(&m_picture);
    drawChannels(picture);
}

} // namespace gyre
