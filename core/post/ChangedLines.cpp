#include "post/ChangedLines.h"
#include "base/Index.h"
#include "base/Text.h"
#include <algorithm>
#include <span>
#include <string_view>

namespace gyre {

namespace {

/// A line without its number and the blanks around it.
std::string_view bare(std::string_view line) {
    line = trimmed(line);
    if (line.size() > 1 && line[0] == 'N' && line[1] >= '0' && line[1] <= '9') {
        std::size_t end = 1;
        while (end < line.size() && line[end] >= '0' && line[end] <= '9') ++end;
        line = trimmed(line.substr(end));
    }
    return line;
}

std::vector<std::string_view> linesOf(const std::string& text) {
    std::vector<std::string_view> out;
    for (std::size_t at = 0; at < text.size();) {
        const std::size_t end = std::min(text.find('\n', at), text.size());
        out.push_back(std::string_view(text).substr(at, end - at));
        at = end + 1;
    }
    return out;
}

std::vector<std::string_view> bareLines(const std::string& text) {
    std::vector<std::string_view> lines = linesOf(text);
    for (std::string_view& l : lines) l = bare(l);
    return lines;
}

// By the fewest lines taken out and put in (Myers).
std::optional<std::vector<int>> matched(const std::vector<std::string_view>& was, const std::vector<std::string_view>& is, std::size_t most) {
    std::size_t head = 0, tail = 0;
    while (head < was.size() && head < is.size() && was[head] == is[head]) ++head;
    while (head + tail < was.size() && head + tail < is.size() && was[was.size() - 1 - tail] == is[is.size() - 1 - tail]) ++tail;
    std::vector<int> out(is.size(), -1);
    for (std::size_t i = 0; i < head; ++i) out[i] = static_cast<int>(i);
    for (std::size_t i = 0; i < tail; ++i) out[is.size() - 1 - i] = static_cast<int>(was.size() - 1 - i);
    const int n = static_cast<int>(was.size() - head - tail), m = static_cast<int>(is.size() - head - tail);
    const int limit = std::min(n + m, static_cast<int>(most));
    const auto old = [&](int i) { return was[head + index(i)]; };
    const auto now = [&](int i) { return is[head + index(i)]; };
    std::vector<std::vector<int>> reached; // by changes: how far in the old text on each diagonal, from −d to d
    for (int d = 0;; ++d) {
        if (d > limit) return std::nullopt;
        std::vector<int> row(index(2 * d + 1), 0);
        const auto last = [&](int k) { return reached.back()[index(k + d - 1)]; };
        for (int k = -d; k <= d; k += 2) {
            int x = d == 0 ? 0 : k == -d || (k != d && last(k - 1) < last(k + 1)) ? last(k + 1) : last(k - 1) + 1;
            while (x < n && x - k < m && x - k >= 0 && old(x) == now(x - k)) ++x;
            row[index(k + d)] = x;
            if (x < n || x - k < m) continue;
            reached.push_back(std::move(row));
            int y = m;
            x = n;
            for (int e = d; e >= 0; --e) {
                const int diagonal = x - y;
                int fromX = 0, fromY = 0;
                if (e > 0) {
                    const std::vector<int>& before = reached[index(e - 1)];
                    const auto at = [&](int l) { return before[index(l + e - 1)]; };
                    const bool in = diagonal == -e || (diagonal != e && at(diagonal - 1) < at(diagonal + 1));
                    const int other = in ? diagonal + 1 : diagonal - 1;
                    fromX = at(other);
                    fromY = fromX - other;
                }
                while (x > fromX && y > fromY) {
                    --x;
                    --y;
                    out[head + index(y)] = static_cast<int>(head) + x;
                }
                x = fromX;
                y = fromY;
            }
            return out;
        }
        reached.push_back(std::move(row));
    }
}

/// How much two lines have in common at their beginnings and ends.
std::size_t likeness(std::string_view a, std::string_view b) {
    const std::size_t most = std::min(a.size(), b.size());
    std::size_t head = 0, tail = 0;
    while (head < most && a[head] == b[head]) ++head;
    while (head + tail < most && a[a.size() - 1 - tail] == b[b.size() - 1 - tail]) ++tail;
    return head + tail;
}

/// What became of each line that is gone: in their order, the likest of those that stand there now; as many as there are on both sides.
std::vector<std::optional<std::size_t>> likest(std::span<const std::string_view> gone, std::span<const std::string_view> in) {
    std::vector<std::optional<std::size_t>> out(gone.size());
    constexpr std::size_t kMostCompared = 40000;
    if (gone.size() == in.size() || gone.size() * in.size() > kMostCompared) {
        for (std::size_t i = 0; i < std::min(gone.size(), in.size()); ++i) out[i] = i;
        return out;
    }
    const std::size_t n = gone.size(), m = in.size();
    std::vector<std::size_t> best((n + 1) * (m + 1), 0); // of what begins at either line
    const auto at = [&](std::size_t i, std::size_t k) -> std::size_t& { return best[i * (m + 1) + k]; };
    const auto pair = [&](std::size_t i, std::size_t k) { return 1000 + likeness(gone[i], in[k]) + at(i + 1, k + 1); };
    for (std::size_t i = n; i-- > 0;)
        for (std::size_t k = m; k-- > 0;) at(i, k) = std::max({at(i + 1, k), at(i, k + 1), pair(i, k)});
    for (std::size_t i = 0, k = 0; i < n && k < m;) {
        if (at(i, k) == pair(i, k))
            out[i++] = k++;
        else
            (at(i, k) == at(i + 1, k) ? i : k) += 1;
    }
    return out;
}

} // namespace

std::optional<std::vector<int>> sameLines(const std::string& was, const std::string& is, std::size_t most) { return matched(bareLines(was), bareLines(is), most); }

std::optional<std::vector<LineChange>> changedLines(const std::string& wasText, const std::string& isText, std::size_t most) {
    const auto was = bareLines(wasText), is = bareLines(isText);
    const auto of = matched(was, is, most);
    if (!of) return std::nullopt;
    std::vector<LineChange> out;
    for (std::size_t old = 0, now = 0; old < was.size() || now < is.size(); ++old, ++now) {
        const std::size_t first = now; // lines that only the new text has, then lines that only the old one had, up to one that both have
        while (now < is.size() && (*of)[now] < 0) ++now;
        const std::size_t next = now < is.size() ? index((*of)[now]) : was.size(), in = now - first, gone = next - old;
        const auto line = [&](std::size_t k) { return static_cast<int>(k < in ? first + k : std::min(now, is.size() - 1)) + 1; };
        std::size_t k = 0; // of those that were put in
        const auto putIn = [&](std::size_t until) {
            for (; k < until; ++k) out.push_back({line(k), {}, std::string(is[first + k])});
        };
        const auto became = likest({was.begin() + static_cast<std::ptrdiff_t>(old), gone}, {is.begin() + static_cast<std::ptrdiff_t>(first), in});
        for (std::size_t g = 0; g < gone; ++g) {
            if (became[g]) putIn(*became[g]);
            out.push_back({line(k), std::string(was[old + g]), became[g] ? std::string(is[first + k]) : std::string()});
            if (became[g]) ++k;
        }
        putIn(in);
        old = next;
    }
    return out;
}

} // namespace gyre
