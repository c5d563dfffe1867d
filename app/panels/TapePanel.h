// The tape: motion along the path as channels, and the playback control.
#pragma once
#include "axis/AxisSpec.h"
#include "model/Apart.h"
#include "model/OpenJob.h"
#include <QPixmap>
#include <QSet>
#include <QTimer>
#include <QWidget>
#include <functional>

class QLabel;
class QPushButton;
class QVBoxLayout;

namespace gyre {

class StockShow;
class Along;
class Route;
/// The chart. Data are thinned to least and greatest value a pixel once per size, so that scrubbing costs nothing.
class TapeChart : public QWidget {
    Q_OBJECT
public:
    TapeChart(OpenJob& open, Along& along, StockShow& stock, QWidget* parent = nullptr);
    [[nodiscard]] std::size_t locationAt(double x) const;
    [[nodiscard]] double xOf(std::size_t location) const;
    void setByTime(bool on);
    /// What can be drawn, and what is.
    [[nodiscard]] QStringList channels() const;
    [[nodiscard]] bool shows(const QString& channel) const { return !m_hidden.contains(channel); }
    void showChannel(const QString& channel, bool on);
    /// What a channel says at the playhead, with its unit; empty where it says nothing.
    [[nodiscard]] QString valueHere(const QString& channel) const;

protected:
    void paintEvent(QPaintEvent* e) override;
    void resizeEvent(QResizeEvent* e) override;
    void changeEvent(QEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override;
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;

    // Axis keys, on the row that the playhead is in: points on the lead and tilt channels. TapeKeys.cpp
public:
    struct KeyMark {
        std::size_t key = 0;
        int channel = 0; ///< 0 lead, 1 tilt
        QPointF at;
    };
    [[nodiscard]] std::vector<KeyMark> keyMarks() const;

private:
    struct Channel {
        QString name, unit;
        std::vector<float> low, high; ///< per pixel
        std::vector<float> values;    ///< per location
        bool shown = true;
        float least = 0.0f, most = 0.0f;
        std::optional<double> demanded;
        bool soft = false;
    };
    /// What the chart is made of.
    struct Laid {
        std::vector<Channel> channels;
        std::vector<double> along; ///< per location, length or time
        std::vector<std::pair<std::size_t, std::size_t>> hazards;
    };
    struct Asked {
        std::shared_ptr<const OperationResult> result;
        std::shared_ptr<const Workplace> place;
        std::optional<Recipe> recipe;
        std::optional<Boxed<GuardSpec>> guarded;
        std::shared_ptr<const CutFigures> figures; ///< of cutting; null: not known
        std::vector<OpenJob::HazardStretch> hazards;
        int width = 10;
        bool byTime = true;
    };
    [[nodiscard]] Asked asked() const;
    [[nodiscard]] static Laid lay(const Asked& asked);
    void rebuild();
    void take(Laid laid);
    static void fill(Channel& channel, const std::function<float(std::size_t)>& value, const std::vector<int>& pixel, int width);
    [[nodiscard]] QRect plot() const;
    OpenJob& m_open;
    Along& m_along;
    StockShow& m_stock;
    std::vector<Channel> m_channels;
    std::vector<double> m_lengths;
    std::vector<std::pair<std::size_t, std::size_t>> m_hazards;
    void drawChannels(QPainter& p) const;
    void drawValues(QPainter& p, double x) const;
    [[nodiscard]] QString rangeOf(const Channel& channel) const;
    [[nodiscard]] QString valueOf(const Channel& channel) const;
    [[nodiscard]] QRectF lane(std::size_t channel) const;
    [[nodiscard]] double degreesPerPixel(std::size_t channel) const;
    [[nodiscard]] double yOf(std::size_t channel, double value) const;
    [[nodiscard]] bool keysPossible() const;
    void drawKeys(QPainter& p) const;
    [[nodiscard]] std::optional<KeyMark> keyAt(const QPointF& p) const;
    void dragKey(const QPointF& p);
    std::optional<KeyMark> m_drag;
    AxisKey m_dragged; ///< as it was when the drag began
    QPointF m_dragStart;
    QSet<QString> m_hidden{tr("chip")}; ///< until they are asked for
    QPixmap m_picture;
    QTimer m_later;
    bool m_byTime = true, m_old = true, m_again = false; ///< asked for again while it is laid
    Apart m_apart;
};

class TapePanel : public QWidget {
    Q_OBJECT
public:
    TapePanel(OpenJob& open, Route& route, Along& along, StockShow& stock, QWidget* parent = nullptr);
    /// Forward, or back.
    void play(bool on, bool back = false);
    [[nodiscard]] bool playing() const { return m_timer.isActive(); }
    /// So many times as fast as the machine.
    void setSpeed(double times);
    [[nodiscard]] double speed() const { return m_speed; }
    /// Where it stops by itself.
    enum class StopAt { Hazard, Tool };
    void setStopAt(StopAt what, bool on) { (what == StopAt::Hazard ? m_stopAtHazards : m_stopAtTools) = on; }
    void stepRow(int way);
    void stepHazard(int way);

private:
    void refresh();
    void tick();
    bool playOn(); ///< @return false at the end of what is played
    void makeSpeeds(QPushButton* button);
    /// The nearest hazard beyond a place, in the way that is meant.
    [[nodiscard]] std::optional<std::size_t> hazardBeyond(std::size_t location, int way) const;
    OpenJob& m_open;
    Along& m_along;
    StockShow& m_stock;
    TapeChart* m_chart = nullptr;
    void makeButtons(QVBoxLayout* side);
    void makeChoices(QVBoxLayout* side);
    QPushButton *m_play = nullptr, *m_speedButton = nullptr;
    QLabel* m_where = nullptr;
    QTimer m_timer;
    double m_speed = 4.0, m_clock = 0.0;
    bool m_back = false, m_stopAtHazards = false, m_stopAtTools = false;
};

} // namespace gyre
