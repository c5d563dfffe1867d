// The 3D view: part, fixture, machine, path and tool; picking and the handles for lead and tilt.
#pragma once
#include "model/AppModel.h"
#include "view/Drafter.h"
#include "view/Picking.h"
#include <QTimer>
#include <QWidget>

namespace gyre {

struct AxisKey;
struct PathHazard;
struct LinkResult;
struct PatternResult;

class View : public QWidget {
    Q_OBJECT
public:
    explicit View(AppModel& model, QWidget* parent = nullptr);
    ~View() override;

    [[nodiscard]] bool atMachine() const { return m_atMachine; }
    void setAtMachine(bool on);
    /// The body of the machine under a pixel that is nearer than part, fixtures and stock; empty: none, or one that is hidden.
    [[nodiscard]] QString machineBodyAt(const QPointF& pixel) const;
    /// From solid to faded to hidden, and back. @return its name and how it is shown now; empty: there is none under the cursor
    QString cycleMachineBody();
    /// @return is anything shown that was not?
    bool showWholeMachine();
    [[nodiscard]] Shown machineShown(const QString& body) const;
    void frameAll();
    /// The faces that are cut or lit, as large as they go.
    void frameWork();
    enum class From { Above, Below, Front, Back, Left, Right, Corner };
    static constexpr int kFrom = 7;
    void lookFrom(From from);
    /// Holder and shank are seen through: always, or else while they hide where the tool touches.
    void setToolFaded(bool on);
    [[nodiscard]] bool toolFaded() const { return m_toolFaded; }
    /// Words in the upper left corner begin below this.
    void setOverlayTop(double pixels);
    /// Is the stock drawn in place of the part?
    [[nodiscard]] bool stockDrawn() const;
    /// Goes to one of the worst places of the stock, by its number in the picture. @return false where the stock is not shown by its deviation
    bool frameStockPlace(std::size_t place);
    bool frameNextStockPlace();
    [[nodiscard]] bool toolHides() const;
    /// Where the tool and a body are too near at this place, with their distance; null where nothing is.
    struct TooNear {
        Vec3 onTool, onBody;
        double distance = 0.0;
        Zone zone = Zone::Holder;
        std::string body;
    };
    [[nodiscard]] const std::optional<TooNear>& tooNear() const;
    /// Of how many rows one is drawn: rows closer than three pixels would be a flat patch.
    [[nodiscard]] int everyRow() const;
    [[nodiscard]] const Camera& camera() const { return m_camera; }
    Camera& camera() { return m_camera; }
    void orbit(const QPointF& byPixels);
    /// Words beside the cursor: what a click would take.
    [[nodiscard]] QString hoverWords() const;
    /// What is true where the tool stands, as the chip below says it; empty where there is no path.
    struct HereWords {
        QStringList words;
        bool near = false; ///< something is nearer than it may be
    };
    [[nodiscard]] HereWords hereWords() const;
    /// Pixel positions of the handles, for dragging and for tests; null when not shown.
    [[nodiscard]] std::optional<QPointF> leadHandle() const;
    [[nodiscard]] std::optional<QPointF> tiltHandle() const;
    /// Which way the first row runs, while the bare rows are shown: a click on it turns them round.
    [[nodiscard]] std::optional<std::pair<QPointF, QPointF>> rowArrow() const;
    /// Where an axis key stands, on the first and on the last row: drag it along, click to go there, right-click takes it away.
    struct KeyMark {
        std::size_t key = 0;
        bool last = false; ///< its end on the last row
        QPointF at;
    };
    [[nodiscard]] std::vector<KeyMark> keyMarks() const;
    /// Where the heads of the lines stand that the axis goes by; a click on one turns its line over. Null: not in the picture.
    [[nodiscard]] std::vector<std::optional<QPointF>> axisLineHeads() const;
    /// Where the handles stand that the body in hand is moved by: arrows along X, Y, Z (0 … 2), the ring about Z (3).
    [[nodiscard]] std::optional<QPointF> moveHandle(int which) const;
    /// Lights what a word of the recipe speaks of: "target.faces", "pattern.rail1" …
    void lightWord(const QString& key);
    void drawOverlay(QPainter& painter);
    void drawHandle(QPainter& painter, const Vec3& pivot, const Vec3& at, const Vec3& way, const QString& name) const;
    void drawChip(QPainter& painter, const QPointF& at, const QString& text, const QColor& ink, bool below) const;
    void drawRowArrow(QPainter& painter) const;
    void drawDrag(QPainter& painter) const;
    void drawSetUpNames(QPainter& painter) const;
    void drawPlaceWords(QPainter& painter) const;
    void drawTooNear(QPainter& painter) const;
    void drawAxes(QPainter& painter) const;
    void drawRowsLeftOut(QPainter& painter) const;
    [[nodiscard]] QString pickWords() const;
    /// Draws the picture anew, soon and in the background.
    void redraw();
    [[nodiscard]] std::size_t framesDrawn() const { return m_frames; }

signals:
    void atMachineChanged();
    void cannotDraw(const QString& why);

protected:
    void paintEvent(QPaintEvent* e) override;
    void resizeEvent(QResizeEvent* e) override;
    void showEvent(QShowEvent* e) override;
    void mousePressEvent(QMouseEvent* e) override;
    void mouseMoveEvent(QMouseEvent* e) override;
    void mouseReleaseEvent(QMouseEvent* e) override;
    void mouseDoubleClickEvent(QMouseEvent* e) override; ///< on the path: a new axis key
    void wheelEvent(QWheelEvent* e) override;
    void keyPressEvent(QKeyEvent* e) override;
    void leaveEvent(QEvent* e) override;
    void changeEvent(QEvent* e) override;

private:
    struct Solid {
        Picture::Mesh mesh;
        Picture::Lines edges;
        QString role;
        std::string name;
        QColor colour;
        int link = -2;                        ///< machine bodies: the joint they ride on
        std::shared_ptr<const MeshTree> tree; ///< machine bodies: to point at
    };
    /// Called by all that moves the picture: without a graphics card it is drawn without smoothed edges until it rests.
    void hear();
    void takePlace();
    void moving();
    enum class Drag { None, Orbit, Pan, Lead, Tilt, Window, Lasso, Key, Body };
    void uploadSolids();
    void uploadPath();
    void uploadRows();
    void uploadAhead();
    void uploadAxes();
    void uploadDeviation(); ///< what a finished wall is off
    void uploadCuts(const std::vector<PathHazard>& hazards);
    void frameFinding(); ///< the place that was asked for
    void drawTool(const QMatrix4x4& model, bool seenThrough);
    void uploadTool();
    void takeStock();
    void drawStock(const QMatrix4x4& model);
    void drawStockLegend(QPainter& painter) const;
    void drawWorstOfStock(QPainter& painter) const;
    [[nodiscard]] QString stockWords(const QPointF& pixel) const; ///< of the stock's surface under the cursor: who cut it, how far it is off
    [[nodiscard]] std::vector<QColor> stockColours() const;       ///< of the picture's bands
    void uploadCloser();
    void frameCloser();
    [[nodiscard]] QString closerWords() const;
    void askForPicture(); ///< what is old is made anew, and all of it drawn in the background
    void drawScene();
    void drawBodies(const QMatrix4x4& model, bool working, bool stock);
    void drawMachine();
    [[nodiscard]] QMatrix4x4 machineMatrix(const Solid& body) const;
    [[nodiscard]] QString machineWords(const QPointF& pixel) const;
    void drawLit(const QMatrix4x4& model, bool working);
    void drawSeenThrough(const QMatrix4x4& model, bool working);
    void drawConstruction(const QMatrix4x4& model, bool working);
    void drawPath(const QMatrix4x4& model);
    void drawFeatures(const QMatrix4x4& model);
    /// What clicks are about: the part with what mends made, or its body alone while mends are hidden.
    [[nodiscard]] const Part& pickedPart() const;
    [[nodiscard]] QString mendOfFace(int face) const; ///< empty: it is the body's own
    [[nodiscard]] QString mendOfLine(int edge) const; ///< empty: it is an edge of a face
    void click(const QPointF& pixel, bool add);
    /// What a click would take, the likeliest first.
    [[nodiscard]] std::vector<Guess> guessesAt(const QPointF& pixel);
    [[nodiscard]] std::vector<Guess> facesAt(const QPointF& pixel) const;
    [[nodiscard]] std::vector<Guess> holesAt(const QPointF& pixel) const;
    [[nodiscard]] std::vector<Guess> pointsAt(const QPointF& pixel);
    std::vector<Guess> thingsAt(const QPointF& pixel);
    void drawMeasures(QPainter& painter) const;
    [[nodiscard]] std::vector<Guess> edgesAt(const QPointF& pixel) const;
    void hover(const QPointF& pixel);
    void take(const Guess& guess, bool add);
    void takeInside();
    /// The hole whose mouth or arrow is under the cursor, in the Set up bench.
    [[nodiscard]] std::optional<std::size_t> holeAt(const QPointF& pixel) const;
    void drawPicks(const QMatrix4x4& model);
    [[nodiscard]] bool picksFaces() const;
    [[nodiscard]] bool picksEdges() const;
    [[nodiscard]] QMatrix4x4 partMatrix() const;
    [[nodiscard]] QMatrix4x4 toolMatrix() const;
    [[nodiscard]] std::optional<JointValues> joints() const;
    struct Handles {
        Vec3 pivot, lead, tilt; ///< points on the tool's sphere of directions
        Vec3 leadWay, tiltWay;  ///< how they move by one radian
    };
    [[nodiscard]] std::optional<Handles> handles() const;
    [[nodiscard]] bool keysPossible() const;
    /// The row at the start or the end of the pattern, in the pattern's direction.
    [[nodiscard]] Polyline keyRow(bool last) const;
    [[nodiscard]] std::optional<KeyMark> keyAt(const QPointF& pixel) const;
    void dragKey(const QPointF& to);
    void goToKey(const KeyMark& mark);
    void drawKeys(QPainter& painter) const;
    void drawLeadSense(QPainter& painter, const AxisKey& key) const;
    [[nodiscard]] bool axisLinesPossible() const;
    [[nodiscard]] std::optional<std::size_t> axisLineAt(const QPointF& pixel) const; ///< whose head is there
    void drawAxisLines(QPainter& painter) const;
    struct MoveHandles {
        Vec3 centre = Vec3::Zero();
        std::array<Vec3, 3> way{}; ///< unit
        std::array<Vec3, 4> at{};
    };
    [[nodiscard]] std::optional<std::size_t> held() const; ///< the body in hand, where it can be moved in the view
    [[nodiscard]] std::optional<MoveHandles> moveHandles() const;
    [[nodiscard]] std::optional<int> moveHandleAt(const QPointF& pixel) const;
    [[nodiscard]] std::optional<double> angleOnRing(const QPointF& pixel) const;
    void beginMove(int which);
    void dragBody(const QPointF& to);
    bool takeInHand(const QPointF& pixel);
    void drawMoving(QPainter& painter) const;

    AppModel& m_model;
    Drafter m_drafter;
    Picture m_picture; ///< while it is put together
    QImage m_shownImage;
    Camera m_camera;
    bool m_opened = false, m_atMachine = false, m_framed = false;
    bool m_pictureOld = true, m_asking = false;
    std::shared_ptr<const Part> m_framedBody; ///< the body the view was framed for
    std::vector<Solid> m_solids, m_machine;
    Picture::Mesh m_partMesh;
    struct ToolPiece {
        Picture::Mesh mesh;
        Zone zone;
    };
    std::vector<ToolPiece> m_tool;
    Picture::Mesh m_region; ///< where rows are kept
    Picture::Lines m_rails, m_axes, m_lit, m_features, m_drawn, m_flank, m_off, m_ahead;
    Picture::Mesh m_construction; ///< faces that mends made; numbered like the part's
    bool m_featuresOld = true;
    double m_featurePixel = 0.0; ///< scale that m_features was made for
    struct Band {                ///< of the closer look: what is off the part by about as much
        Picture::Mesh mesh;
        QColor colour;
    };
    std::vector<Band> m_closer;
    std::shared_ptr<const void> m_stockOf;   ///< the picture that `m_stockNow` is drawn of
    Picture::Mesh m_stockNow;                ///< as it is cut, in place of the part; faces by band
    std::optional<std::size_t> m_stockPlace; ///< gone to last
    std::size_t m_stockBands = 0;
    double m_overlayTop = 14.0; ///< where words may begin
    bool m_closerOld = true, m_closerFramed = false;
    Camera m_cameraBefore; ///< when the closer look began
    struct CutLines {      ///< the path, drawn while a pixel is no larger than `largestPixel` mm
        double largestPixel = 0.0, tolerance = 0.0;
        int everyRow = 1;
        Picture::Lines lines;          ///< null until it is looked at for the first time
        std::vector<std::size_t> last; ///< per segment: the location where it ends
    };
    /// How a location is drawn: unsafe, cutting, entering or leaving, travelling.
    enum class DrawnAs : std::uint8_t { Unsafe, Cut, Entry, Link, Rapid };
    std::vector<DrawnAs> m_drawnAs; ///< the locations of the path
    [[nodiscard]] static Renderer::Segment segmentOf(const Vec3& a, const Vec3& b, DrawnAs stroke);
    void layRows(CutLines& grade) const;
    void layCuts(CutLines& grade) const;
    std::vector<CutLines> m_cuts, m_rows;
    [[nodiscard]] const CutLines* atScale(const std::vector<CutLines>& grades) const; ///< those for the present scale; null where there are none
    bool m_toolFaded = false;
    std::map<QString, Shown> m_machineShown; ///< bodies of machines, by name, that are not shown as they are at first
    mutable std::optional<TooNear> m_tooNear;
    mutable std::pair<std::shared_ptr<const OperationResult>, std::size_t> m_tooNearOf{nullptr, SIZE_MAX};
    // What is uploaded now; a result that shares it need not be uploaded again.
    std::shared_ptr<const PatternResult> m_shownPattern;
    std::shared_ptr<const std::vector<Pass>> m_shownPasses;
    std::shared_ptr<const LinkResult> m_shownLinks;
    QTimer m_rest;
    bool m_coloursOld = false, m_solidsOld = true, m_pathOld = true;
    Drag m_drag = Drag::None;
    KeyMark m_keyDragged;
    struct Move { ///< of the body in hand, as it was when the drag began
        int which = 0;
        MoveHandles from;
        Vec3 moved = Vec3::Zero(), turned = Vec3::Zero(), seat = Vec3::Zero();
        double seatTurn = 0.0;
        QString key;
    };
    Move m_move;
    Frame m_seatShown = Frame::Identity(); ///< of the part in the picture
    QPointF m_pressed, m_last;
    bool m_moved = false;
    std::vector<Guess> m_guesses;
    std::size_t m_guess = 0;
    QPointF m_cursor;
    QPolygonF m_lasso;
    int m_keyPick = -1;               ///< the face or edge that the keyboard stands on
    Vec3 m_hoverPoint = Vec3::Zero(); ///< on the face under the cursor
    QString m_litWord;
    std::size_t m_frames = 0;
};

} // namespace gyre
