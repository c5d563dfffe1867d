// The window's model: several ways of doing the operation in hand, worked out beside each other away from the window's thread.
#pragma once
#include "model/CardPart.h"
#include "session/Variants.h"

namespace gyre {

struct PatternResult;

class Variants : public CardPart {
    Q_OBJECT
public:
    explicit Variants(AppModel& model);

    /// May the operation in hand have any?
    [[nodiscard]] bool possible() const;
    /// By their names; empty while they are worked out, and where there is one way only.
    [[nodiscard]] const std::vector<VariantResult>& all() const { return m_all; }
    [[nodiscard]] std::vector<VariantLine> table() const;

    /// The one in the route is put aside as it is; a copy of it is in hand then.
    void add();
    void take(const QString& variant);
    void drop(const QString& variant);
    void keep(); ///< the one in the route; all others go

    /// Its rows are drawn beside those in hand; empty: of none.
    void point(const QString& variant);
    [[nodiscard]] std::shared_ptr<const PatternResult> pointed() const;

signals:
    void pointedChanged();

private:
    void start() override;
    void closed() override { point({}); }
    void edit(const QString& label, const std::function<Status(Job&, const std::string&)>& how);
    std::vector<VariantResult> m_all;
    QString m_pointed;
    std::uint64_t m_of = 0; ///< of all that they rest on
};

} // namespace gyre
