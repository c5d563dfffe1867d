#include "session/Workshop.h"
#include "base/File.h"
#include "base/Json.h"
#include "base/Text.h"
#include "form/Form.h"
#include "machine/Machine.h"
#include "mend/MendForm.h"
#include "operation/Workplace.h"
#include "pattern/PatternSpec.h"
#include <algorithm>

namespace gyre {
namespace fs = std::filesystem;

Result<Workshop::Stamp> Workshop::stampOf(const std::string& file, const std::string& what, std::vector<InputFile>& inputs) {
    if (file.empty()) return fail("no file is named", what, "Choose one in Set up");
    const fs::path path = fs::path(file).is_absolute() ? fs::path(file) : (m_folder.empty() ? fs::path(".") : m_folder) / file; // a name alone lies here
    std::error_code ec;
    if (!fs::exists(path, ec)) return fail("the file is not there: " + path.string(), what, "Put it back or choose another in Set up");
    const auto content = m_contents.of(path);
    if (!content) return fail(content.error().what + ": " + path.string(), what, "Put it back or choose another in Set up");
    inputs.push_back({path, *content});
    return Stamp{path, *content};
}

const Workshop::Referred& Workshop::referredBy(const Stamp& part) {
    const auto there = [](const fs::path& f) {
        std::error_code ec;
        return fs::is_regular_file(f, ec);
    };
    // Looked for anew when one that was missing is there, one that was there has gone, or one of them has changed: it may refer to others now.
    if (const auto known = m_others.find(part); known != m_others.end() && std::none_of(known->second.missing.begin(), known->second.missing.end(), there) &&
                                                changedFiles(known->second.there, m_contents).empty())
        return known->second;
    Referred found;
    if (auto others = otherFilesOf(part.file)) { // what is wrong with it is told when it is opened
        for (const fs::path& f : others->there)
            if (const auto content = m_contents.of(f)) found.there.push_back({f, *content});
        found.missing = std::move(others->missing);
    }
    return m_others.insert_or_assign(part, std::move(found)).first->second;
}

Result<Workshop::Stamp> Workshop::partStamp(const JobBody& b, std::vector<InputFile>& inputs) {
    auto stamp = stampOf(b.file, b.name, inputs);
    if (!stamp) return stamp;
    const Referred& referred = referredBy(*stamp);
    if (referred.there.empty() && referred.missing.empty()) return stamp;
    Hash all;
    all.add(stamp->content);
    for (const InputFile& f : referred.there) {
        inputs.push_back(f);
        all.add(f.file.filename().string()).add(f.content);
    }
    stamp->content = all.value();
    return stamp;
}

Shelf::Key Workshop::shelfKey(const std::pair<Stamp, std::string>& of, const Opened& opened) {
    return {of.first.content, of.first.file.filename().string(), of.second, opened.part ? opened.part->deflection() : 0.0, opened.taken};
}

Result<std::shared_ptr<const Machine>> Workshop::machineOf(const Job& job, std::vector<InputFile>& inputs, Hash& key) {
    const auto stamp = stampOf(job.machine, "machine", inputs);
    if (!stamp) return tl::unexpected(stamp.error());
    ReadMachine& known = m_machines[*stamp];
    known.used = m_turn;
    if (!known.machine || !changedFiles(known.meshes, m_contents).empty()) {
        auto text = readFile(stamp->file, 64u << 20);
        if (!text) return tl::unexpected(text.error());
        const fs::path folder = stamp->file.parent_path();
        auto read = machineFromJson(*text, stamp->file.filename().string(), folder);
        if (!read) return tl::unexpected(read.error());
        std::vector<InputFile> meshes;
        for (const MachineBody& b : read->bodies)
            if (!b.meshFile.empty())
                if (const auto content = m_contents.of(folder / b.meshFile)) meshes.push_back({folder / b.meshFile, *content});
        known = {std::make_shared<const Machine>(std::move(*read)), std::move(meshes)};
    }
    inputs.insert(inputs.end(), known.meshes.begin(), known.meshes.end());
    key.add(machineToJson(*known.machine));
    for (const InputFile& m : known.meshes) key.add(m.content);
    return known.machine;
}

namespace {

constexpr std::size_t kBytesOfTriangle = 250; ///< with its share of points, of its tree and of what it is drawn with

// How far triangles may lie from the true surface: four times the finest machining tolerance of the route, in a few grades so
// that not every edit opens the parts anew. The guard adds it to every clearance.
double deflectionFor(const Job& job) {
    double finest = 0.0125;
    for (const auto* list : {&job.route, &job.variants})
        for (const Recipe& r : *list) finest = std::min(finest, r.pattern->chordTolerance);
    double grade = 0.005;
    for (const double g : {0.01, 0.02, 0.05})
        if (g <= 4.0 * finest * (1.0 + 1e-9)) grade = g;
    return grade;
}

} // namespace

Result<std::shared_ptr<const Part>> Workshop::partFor(const JobBody& b, double deflection, Progress& progress, Hash& key, std::vector<InputFile>& inputs) {
    auto opened = openPart(b, deflection, progress, key, inputs);
    const Frame to = b.placed();
    if (!opened || !b.mayMove() || to.isApprox(Frame::Identity(), 0.0)) return opened;
    Hash where;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 4; ++c) where.add(to.matrix()(r, c));
    key.add(where.value());
    MovedPart& known = m_moved[{b.name, where.value()}];
    known.used = m_turn;
    if (known.from != *opened) {
        auto part = Part::moved(**opened, to, b.name, progress);
        if (!part) {
            m_moved.erase({b.name, where.value()});
            return part;
        }
        known.from = *opened;
        known.part = *part;
    }
    return known.part;
}

Result<std::shared_ptr<const Part>> Workshop::openPart(const JobBody& b, double deflection, Progress& progress, Hash& key, std::vector<InputFile>& inputs) {
    key.add(b.name).add(b.role).add(b.only).add(deflection).add(b.meshUnit()).add(b.sheetsOver ? 1.0 : 0.0);
    if (b.shape) {
        const std::string text = stockForm().write(*b.shape).dump();
        key.add(text);
        MadeShape& known = m_shapes[text];
        known.used = m_turn;
        if (!known.part) {
            auto made = Part::fromMesh(b.shape->mesh(), b.name, deflection);
            if (!made) return made;
            known.part = *made;
        }
        return known.part;
    }
    const auto stamp = partStamp(b, inputs);
    if (!stamp) return tl::unexpected(stamp.error());
    auto& opened = m_parts[{*stamp, b.only}];
    if (!opened.part || opened.part->deflection() != deflection || opened.taken != b.meshTaken()) {
        const Shelf::Key shelved{stamp->content, stamp->file.filename().string(), b.only, deflection, b.meshTaken()};
        if (auto kept = m_shelf ? m_shelf->find(shelved) : Shelf::Opened{}; kept.part) {
            opened = {kept.part, b.meshTaken(), kept.holes, m_turn};
        } else {
            auto part = openAside(m_reader, stamp->file, deflection, progress, b.meshTaken(), b.only);
            if (!part) {
                if (!opened.part) m_parts.erase({*stamp, b.only});
                return part;
            }
            opened = {*part, b.meshTaken(), nullptr, m_turn};
            if (m_shelf) m_shelf->keep(shelved, {*part, nullptr});
        }
        // What the file held before is not wanted again.
        std::erase_if(m_parts, [&](const auto& known) { return known.first.first.file == stamp->file && known.first.first.content != stamp->content; });
    }
    opened.used = m_turn;
    key.add(stamp->file.extension().string()).add(stamp->content);
    return opened.part;
}

Status Workshop::place(const Job& job, const JobBody& body, Workplace& place, Hash& looks) {
    const auto stamp = stampOf(body.file, body.name, place.inputs);
    if (!stamp) return tl::unexpected(stamp.error());
    const auto known = m_drawings.find(*stamp);
    if (known == m_drawings.end() || known->second.unit != body.meshUnit()) {
        auto read = readDrawing(stamp->file, body.meshUnit());
        if (!read) return tl::unexpected(read.error());
        m_drawings.insert_or_assign(*stamp, ReadDrawing{body.meshUnit(), std::move(*read), 0});
    }
    m_drawings.at(*stamp).used = m_turn;
    const Drawing& drawing = m_drawings.at(*stamp).drawing;
    Frame on = Frame::Identity();
    if (!body.plane.empty() && !body.flat) {
        const auto plane = std::find_if(job.planes.begin(), job.planes.end(), [&](const WorkPlane& p) { return p.name == body.plane; });
        if (plane == job.planes.end()) return fail("there is no plane '" + body.plane + "' any more", body.name, "Choose another for the drawing");
        on = plane->frame();
    }
    Workplace::PlacedDrawing placed{
        body.name, std::to_string(drawing.curves.size()) + (drawing.curves.size() == 1 ? " curve, " : " curves, ") + drawing.unitWords, body.flat, {}};
    for (const auto& [kind, count] : drawing.passedOver) placed.facts += "; " + std::to_string(count) + " " + kind + " passed over";
    for (const DrawnCurve& c : drawing.curves) placed.curves.push_back(body.flat ? c.curve : c.curve.moved(on));
    place.drawings.push_back(std::move(placed));
    looks.add(stamp->file.extension().string()).add(stamp->content).add(body.name).add(body.meshUnit());
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 4; ++c) looks.add(on.matrix()(r, c));
    return {};
}

Status Workshop::restingStock(const Job& job, Workplace& place, double deflection, const Progress& progress, Hash& looks) {
    std::map<std::string, std::vector<Curve>> curves;
    for (const auto& d : place.drawings) curves[d.name] = d.curves;
    if (place.mends)
        for (std::size_t i = 0; i < place.mends->size(); ++i) curves[job.mends[i].name] = (*place.mends)[i].curves;
    for (const JobBody& b : job.bodies) {
        if (!b.shape || !b.shape->restsOnOthers()) continue;
        // Kept while what it rests on is the same.
        Hash under;
        if (b.shape->kind == StockShape::Kind::Around && place.part) {
            const auto body = place.part->body();
            for (const Vec3& p : (body ? *body : *place.part).mesh().points) under.add(p.x()).add(p.y()).add(p.z());
        } else {
            under.add(looks.value());
        }
        const std::string text = stockForm().write(*b.shape).dump() + std::to_string(under.value());
        MadeShape& known = m_shapes[text];
        known.used = m_turn;
        const std::uint64_t shelved = Hash().add("stock that rests on others").add(text).add(b.name).add(deflection).value();
        if (!known.part && m_shelf) known.part = m_shelf->results.find<Part>(shelved);
        if (!known.part) {
            auto mesh = b.shape->mesh(place.part.get(), curves, progress);
            if (!mesh) return tl::unexpected(Error{mesh.error().what, b.name, mesh.error().remedy, mesh.error().cancelled});
            auto made = Part::fromMesh(std::move(*mesh), b.name, deflection);
            if (!made) return tl::unexpected(made.error());
            known.part = *made;
            if (m_shelf) m_shelf->results.keep(shelved, known.part, known.part->mesh().triangles.size() * kBytesOfTriangle);
        }
        looks.add(b.name).add(b.role).add(text);
        place.bodies.push_back({b.name, b.role, known.part});
    }
    return {};
}

// Mends are made anew when one of them, a plane or the part has changed. Only faces can be cut; curves alone change no path.
void Workshop::mend(const Job& job, Workplace& place, Hash& key, Hash& looks) {
    OrderedJson recipe = OrderedJson::array();
    for (const Mend& m : job.mends) {
        recipe.push_back(mendForm().write(m));
        if (m.kind == MendKind::FreedFace) key.add(recipe.back().dump());
    }
    for (const WorkPlane& p : job.planes) {
        const Frame f = p.frame();
        for (int r = 0; r < 3; ++r)
            for (int c = 0; c < 4; ++c) recipe.push_back(f.matrix()(r, c));
    }
    recipe.push_back(looks.value()); // what is drawn, too, may be started from
    MendGround ground{job.planes, {}};
    for (const auto& d : place.drawings) ground.drawn[d.name] = d.curves;
    const std::string text = recipe.dump();
    if (m_mended.from != place.part || m_mended.recipe != text || !m_mended.results) {
        auto results = std::make_shared<const std::vector<MendResult>>(runMends(place.part, job.mends, ground));
        m_mended = {place.part, mendedPart(place.part, *results), text, results};
    }
    place.part = m_mended.part;
    place.mends = m_mended.results;
    if (!job.mends.empty()) looks.add(text);
}

// An edit and its undoing find everything still there; what a long session has tried is not kept for ever.
void Workshop::forgetOld() {
    const std::uint64_t oldest = m_turn - std::min<std::uint64_t>(m_turn, 16);
    const auto old = [oldest](const auto& known) { return known.second.used < oldest; };
    std::erase_if(m_parts, old);
    std::erase_if(m_shapes, old);
    std::erase_if(m_moved, old);
    std::erase_if(m_drawings, old);
    std::erase_if(m_machines, old);
    if (m_others.size() > 1000) m_others.clear();
}

namespace {

/// What a tool may run into.
Scene sceneOf(const Workplace& place) {
    Scene scene;
    for (const PlacedBody& b : place.bodies) {
        if (b.role != "part" && b.role != "fixture") continue;
        Obstacle o{b.name, b.role == "part" ? ObstacleKind::Part : ObstacleKind::Fixture, b.shape->tree(), {}, b.shape->deflection() + b.within};
        o.within = b.within;
        scene.push_back(std::move(o));
    }
    const Frame toPart = (place.machine->workFrame * place.partFrame).inverse();
    for (const MachineBody& b : place.machine->bodies) {
        if (b.joint != place.machine->workJoint) continue;
        Obstacle o{b.name, ObstacleKind::Machine, {}, b.pieces, 0.0};
        if (b.mesh) {
            TriangleMesh moved;
            moved.append(*b.mesh, toPart);
            o.tree = MeshTree(moved);
        }
        for (ConvexBody& piece : o.pieces) piece.frame = toPart * piece.frame;
        scene.push_back(std::move(o));
    }
    return scene;
}

/// About what the trees of a scene take in memory.
std::size_t bytesOf(const Workplace& place) {
    std::size_t triangles = 0;
    for (const PlacedBody& b : place.bodies) triangles += b.shape->mesh().triangles.size();
    for (const MachineBody& b : place.machine->bodies)
        if (b.mesh) triangles += b.mesh->triangles.size();
    return triangles * kBytesOfTriangle;
}

void addFrame(Hash& hash, const Frame& f) {
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 4; ++c) hash.add(f.matrix()(r, c));
}

/// What curves on the part rest on, beside the part.
std::uint64_t curvesKey(const Job& job, const Hash& drawn) {
    Hash curves;
    curves.add(drawn.value());
    for (const Mend& m : job.mends) curves.add(mendForm().write(m).dump());
    for (const WorkPlane& p : job.planes) {
        curves.add(p.name);
        addFrame(curves, p.frame());
    }
    return curves.value();
}

} // namespace

std::shared_ptr<const Workshop::Surroundings> Workshop::surroundingsOf(const Workplace& place) {
    auto made = std::make_shared<Surroundings>();
    made->scene = sceneOf(place);
    made->overlaps = overlapsOf(made->scene);
    return made;
}

// The part's holes are found once.
void Workshop::takePart(const std::shared_ptr<const Part>& part, Workplace& place) {
    place.part = part;
    for (auto& [stamp, opened] : m_parts)
        if (opened.part == part) {
            if (!opened.holes) {
                opened.holes = std::make_shared<const std::vector<Hole>>(findHoles(*part));
                if (m_shelf) m_shelf->keep(shelfKey(stamp, opened), {opened.part, opened.holes});
            }
            place.holes = *opened.holes;
        }
}

Result<std::shared_ptr<const Workplace>> Workshop::placeFor(const Job& job, Progress& progress) {
    ++m_turn;
    auto place = std::make_shared<Workplace>();
    place->partFrame = job.partFrame();
    place->tools = job.tools;

    Hash key;
    const auto machineRead = machineOf(job, place->inputs, key);
    if (!machineRead) return tl::unexpected(machineRead.error());
    place->machine = *machineRead;
    addFrame(key, place->partFrame);
    const double deflection = deflectionFor(job);
    Hash looks, drawn, stock;
    for (std::size_t i = 0; i < job.bodies.size(); ++i) {
        const JobBody& b = job.bodies[i];
        const Progress::Span span(progress, static_cast<double>(i) / static_cast<double>(job.bodies.size()),
                                  static_cast<double>(i + 1) / static_cast<double>(job.bodies.size()));
        if (b.role == "drawing") {
            Hash own;
            if (const auto ok = this->place(job, b, *place, own); !ok) return tl::unexpected(ok.error());
            looks.add(own.value());
            drawn.add(own.value());
            continue;
        }
        if (b.shape && b.shape->restsOnOthers()) continue; // after what they rest on
        Hash own;
        const auto part = partFor(b, deflection, progress, own, place->inputs);
        if (!part) return tl::unexpected(part.error());
        looks.add(own.value());
        if (b.within > 0.0) own.add("within").add(b.within);
        if (b.role == "stock") stock.add(own.value());
        if (b.role == "part" || b.role == "fixture") key.add(own.value()); // nothing else is in the way of a tool
        place->bodies.push_back({b.name, b.role, *part, b.mayMove() ? b.placed() : Frame::Identity(), b.within});
        if (b.role == "part") takePart(*part, *place);
    }
    place->curves = curvesKey(job, drawn);
    if (place->part) mend(job, *place, key, looks);
    Hash resting;
    resting.add(place->curves);
    if (auto ok = restingStock(job, *place, deflection, progress, resting); !ok) return tl::unexpected(ok.error());
    looks.add(resting.value());
    stock.add(resting.value());
    for (const JobBody& b : job.bodies)
        if (b.shape && b.shape->restsOnOthers()) stock.add(place->curves);
    place->key = key.value();
    place->stock = stock.value();
    place->looks = looks.add(place->key).value();
    if (!m_scene || m_sceneKey != place->key) {
        const std::uint64_t shelved = Hash().add("surroundings").add(place->key).value();
        m_scene = m_shelf ? m_shelf->results.find<Surroundings>(shelved) : nullptr;
        if (!m_scene) {
            m_scene = surroundingsOf(*place);
            if (m_shelf) m_shelf->results.keep(shelved, m_scene, bytesOf(*place));
        }
        m_sceneKey = place->key;
    }
    place->scene = {m_scene, &m_scene->scene};
    place->overlaps = {m_scene, &m_scene->overlaps};
    forgetOld();
    return std::shared_ptr<const Workplace>(place);
}

std::vector<MachineFile> machinesIn(const fs::path& folder) {
    std::vector<MachineFile> machines;
    std::error_code ec;
    for (fs::directory_iterator it(folder, ec), end; !ec && it != end; it.increment(ec)) {
        const std::string file = it->path().filename().string();
        if (!file.ends_with(".machine.json")) continue;
        const auto text = readFile(it->path(), 64u << 20);
        const auto json = text ? parseJson(*text, file) : tl::unexpected(text.error());
        const bool named = json && json->is_object() && json->contains("name") && (*json)["name"].is_string();
        machines.push_back({file, named ? cutText((*json)["name"].get<std::string>(), 80) : file});
    }
    std::sort(machines.begin(), machines.end(), [](const MachineFile& a, const MachineFile& b) { return a.file < b.file; });
    return machines;
}

} // namespace gyre
