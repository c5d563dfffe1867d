#include "model/ToolShelf.h"
#include "base/File.h"
#include "form/Form.h"
#include "milling/MillSpec.h"
#include "model/Picks.h"
#include "tool/Library.h"
#include <QFileInfo>
#include <algorithm>
#include <fmt/format.h>

namespace gyre {

void ToolShelf::setOpen(bool open) {
    if (open == isOpen()) return;
    m_open = open;
    m_model.picks().setMode(PickMode::None);
    if (open && m_model.bench() != Bench::SetUp)
        m_model.setBench(Bench::SetUp);
    else
        emit m_model.benchChanged();
    emit shownChanged();
}

void ToolShelf::reset() { m_shown = job().tools.empty() ? QString() : QString::fromStdString(job().tools.front().id); }

void ToolShelf::show(const QString& id) {
    if (id == m_shown) return;
    m_shown = id;
    emit shownChanged();
}

Status ToolShelf::changeTool(const QString& id, const std::function<void(Assembly&)>& edit, const QString& mergeKey) {
    const Assembly* now = hasJob() ? job().tool(id.toStdString()) : nullptr;
    if (!now) return fail("there is no such tool");
    Assembly next = *now;
    edit(next);
    if (const auto ok = validate(next); !ok) {
        tell(ok.error());
        emit shownChanged(); // the words show what they were before
        return ok;
    }
    change(
        tr("change tool"), [&](Job& j) { *j.tool(id.toStdString()) = next; }, mergeKey.isEmpty() ? QString() : id + "/" + mergeKey);
    emit shownChanged();
    return {};
}

void ToolShelf::duplicate(const QString& id) {
    const Assembly* from = hasJob() ? job().tool(id.toStdString()) : nullptr;
    if (!from) return;
    Assembly copy = *from;
    for (int i = 2;; ++i) {
        copy.id = fmt::format("{}-{}", from->id, i);
        copy.name = fmt::format("{} ({})", from->name, i);
        if (!job().tool(copy.id)) break;
    }
    change(tr("duplicate tool"), [&](Job& j) { j.tools.push_back(copy); });
    show(QString::fromStdString(copy.id));
}

QStringList ToolShelf::operationsWith(const QString& tool) const {
    QStringList out;
    if (!hasJob()) return out;
    for (const auto* list : {&job().route, &job().variants})
        for (const Recipe& r : *list)
            if (r.tool == tool.toStdString() || r.mill->after == tool.toStdString())
                out << QString::fromStdString(r.name) + (list == &job().variants ? tr(", variant %1").arg(QString::fromStdString(r.variant)) : QString());
    return out;
}

Status ToolShelf::remove(const QString& id) {
    if (const QStringList used = operationsWith(id); !used.isEmpty()) {
        const auto refused = fail(fmt::format("the tool is used by {}", used.join(", ").toStdString()), {}, "Give those operations another tool first");
        tell(QString::fromStdString(refused.value().text()));
        return refused;
    }
    change(tr("remove tool"), [&](Job& j) { std::erase_if(j.tools, [&](const Assembly& a) { return a.id == id.toStdString(); }); });
    if (m_shown == id) show(hasJob() && !job().tools.empty() ? QString::fromStdString(job().tools.front().id) : QString());
    return {};
}

Status ToolShelf::importFrom(const QString& file) {
    if (!hasJob()) return fail("there is no job to add tools to");
    const auto text = readFile(file.toStdString(), 64u << 20);
    const auto library = text ? toolLibraryFromJson(*text, QFileInfo(file).fileName().toStdString()) : tl::unexpected(text.error());
    if (!library) {
        tell(library.error());
        return tl::unexpected(library.error());
    }
    int fresh = 0, known = 0;
    change(tr("import tools"), [&](Job& j) {
        for (const Assembly& a : library->assemblies) {
            const Assembly* old = j.tool(a.id);
            if (old && assemblyForm().same(*old, a)) {
                ++known;
                continue;
            }
            Assembly copy = a;
            for (int i = 2; j.tool(copy.id); ++i) copy.id = fmt::format("{}-{}", a.id, i); // another tool of that name stays as it is
            if (!j.material.empty()) (void)useMaterial(copy, j.material);
            j.tools.push_back(copy);
            ++fresh;
        }
    });
    tell(tr("%1 tools added, %2 were there already.").arg(fresh).arg(known));
    emit shownChanged();
    return {};
}

Status ToolShelf::exportTo(const QString& file) const {
    if (!hasJob()) return fail("there is no job");
    return writeFileAtomic(file.toStdString(), toolLibraryToJson({job().name + " tools", job().tools}));
}

void ToolShelf::add(CutterShape shape) {
    if (!hasJob()) return;
    Assembly a;
    const std::string base = cutterShapeName(shape);
    if (const Assembly* like = shown()) {
        a.holder = like->holder;
        a.holderName = like->holderName;
        a.materials = like->materials;
        a.coolant = like->coolant;
    } else {
        a.holderName = "holder";
        a.holder = {{20.0, 20.0, 30.0}, {40.0, 40.0, 30.0}};
    }
    a.cutter = asShape(a.cutter, shape);
    a = possible(a);
    for (int i = 1;; ++i) {
        a.id = fmt::format("{}-{:g}{}", base, a.cutter.diameter, i > 1 ? fmt::format("-{}", i) : std::string());
        std::replace(a.id.begin(), a.id.end(), ' ', '-');
        a.name = i > 1 ? fmt::format("{} ({})", shortName(a.cutter), i) : shortName(a.cutter);
        if (!job().tool(a.id)) break;
    }
    if (!job().material.empty()) (void)useMaterial(a, job().material);
    change(tr("new tool"), [&](Job& j) { j.tools.push_back(a); });
    show(QString::fromStdString(a.id));
}

} // namespace gyre
