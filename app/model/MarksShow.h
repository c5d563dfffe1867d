// The window's model: the marks on the part around the place that the playhead stands at; they follow it.
#pragma once
#include "model/CardPart.h"
#include "session/SurfaceMarks.h"
#include <QStringList>

namespace gyre {

class MarksShow : public CardPart {
    Q_OBJECT
public:
    explicit MarksShow(AppModel& model);

    /// Null until it is there; it stays while the next one is made.
    [[nodiscard]] const std::shared_ptr<const SurfaceMarks>& picture() const { return m_picture; }
    /// Of the patch, mm: what was asked for, or what suits the operation in hand.
    [[nodiscard]] double size() const;
    void setSize(double mm);
    void scaleSize(double by);
    /// "6.7 µm" or "264 µin".
    [[nodiscard]] QString heightWords(double mm) const;
    [[nodiscard]] QStringList told() const; ///< what the picture comes to, a sentence each

private:
    void start() override;
    void forget() override { m_of = 0; }
    std::shared_ptr<const SurfaceMarks> m_picture;
    QStringList m_names; ///< of the operations, by the cuts' numbers
    double m_size = 0.0; ///< 0: nobody asked
    QString m_last;      ///< of the operation that the picture ends with
    bool m_old = false;  ///< a path of it is not that of the job as it stands now
    std::uint64_t m_of = 0;
};

} // namespace gyre
