// The window's model: where the part should stand on the table; worked out away from the window's thread.
#pragma once
#include "model/CardPart.h"
#include "session/Seats.h"

namespace gyre {

class SeatShow : public CardPart {
    Q_OBJECT
public:
    explicit SeatShow(AppModel& model) : CardPart(model) {}

    /// Nothing until it is there.
    [[nodiscard]] const std::optional<SeatMap>& map() const { return m_map; }
    /// The sheet that is seen.
    [[nodiscard]] std::size_t sheet() const { return m_sheet; }
    void setSheet(std::size_t sheet);
    /// The place that "move it there" means: the one that was clicked, or the best; nothing where there is none but the present one.
    [[nodiscard]] std::optional<SeatTry> chosen() const;
    void choose(std::size_t column, std::size_t row);
    void take();
    [[nodiscard]] QString placeWords(const SeatTry& at) const; ///< "at 40 −20, turned by 90°"
    [[nodiscard]] QString tryWords(const SeatTry& at) const;   ///< "12:40 · 34 mm of room", "X 12.4 mm beyond its travel"
    [[nodiscard]] QString summary() const;

private:
    void start() override;
    void forget() override;
    void measure();
    std::optional<SeatMap> m_map;
    std::optional<SeatTry> m_clicked;
    std::size_t m_sheet = 0;
    std::uint64_t m_of = 0;
    std::vector<std::shared_ptr<const OperationResult>> m_done;
};

} // namespace gyre
