// The map of directions at the place where the playhead stands, in the window: made away from the window's thread.
#pragma once
#include "guard/Sky.h"
#include "model/Apart.h"
#include <QString>
#include <optional>

namespace gyre {

class AppModel;

enum class SkySize { Off, Small, Large };

class SkyShow : public QObject {
    Q_OBJECT
public:
    explicit SkyShow(AppModel& model);

    void show(SkySize size);
    void cycle(); ///< off, small, large
    [[nodiscard]] SkySize size() const { return m_size; }
    /// Is there work whose axis is free in hand?
    [[nodiscard]] bool possible() const;

    struct Picture {
        SkyMap map;
        std::function<SkyMap::Cell(const Vec3&)> ask; ///< what exactly a direction is like
        std::function<AxisPose(const Vec3&)> stands;  ///< where the tool would stand
        std::size_t location = 0;
        Vec3 axis = Vec3::UnitZ();             ///< as the path has it there
        std::optional<Vec3> wish;              ///< before the guard leaned it away, where that is known
        std::vector<Vec3> row;                 ///< axes along the row, seen from here: turned with the surface and the feed
        std::vector<QString> obstacles;        ///< names, by number
        double leadSign = 1.0, tiltSign = 1.0; ///< how the recipe counts them on this row
    };
    /// Null until it is there, and where there is none; it stays while the next one is made.
    [[nodiscard]] const std::shared_ptr<const Picture>& picture() const { return m_picture; }
    [[nodiscard]] bool settled() const { return !m_apart.busy() && !m_again; }
    /// "holder · clamp 2", "free, 3.2 mm to spare": what a direction is like.
    [[nodiscard]] QString words(const Vec3& axis) const;
    /// The direction under the pointer: the tool is drawn as it would stand, and what would be in its way.
    struct Pointed {
        Vec3 axis = Vec3::UnitZ();
        AxisPose stands;
        std::optional<Zone> zone; ///< of the tool that comes too near
        QString body;             ///< to what
    };
    void point(const std::optional<Vec3>& axis);
    [[nodiscard]] const std::optional<Pointed>& pointed() const { return m_pointed; }
    /// The axis of this place becomes that one: a key on the row, or another turn of the one that is there.
    void turnTo(const Vec3& axis);

signals:
    void changed();
    void pointedChanged();

private:
    void ask();
    void start();
    AppModel& m_model;
    SkySize m_size = SkySize::Off;
    std::shared_ptr<const Picture> m_picture;
    std::optional<Pointed> m_pointed;
    Apart m_apart;
    bool m_again = false;
};

} // namespace gyre
