// One block of an RS-274 program as its words.
#pragma once
#include <map>
#include <optional>
#include <vector>

namespace gyre {

/// The words of one block, each letter but G and M once.
struct Block {
    std::vector<int> g; ///< in tenths: G43.4 is 434
    std::vector<int> m;
    std::map<char, double> words; ///< F S T H P Q R and axes

    [[nodiscard]] bool has(char letter) const { return words.count(letter) > 0; }
    /// Takes a word out: what is left at the end belongs to nothing.
    std::optional<double> take(char letter) {
        const auto it = words.find(letter);
        if (it == words.end()) return std::nullopt;
        const double v = it->second;
        words.erase(it);
        return v;
    }
};

/// Codes of one group: two of them in a block contradict each other. 0: it belongs to none.
[[nodiscard]] int groupOf(int tenths);

} // namespace gyre
