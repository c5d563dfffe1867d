#include "model/Dialects.h"
#include "base/File.h"
#include "session/Sending.h"
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>

namespace gyre {
namespace {

const char* kEnding = ".dialect.json";
QString ownFolder() { return QStandardPaths::writableLocation(QStandardPaths::AppDataLocation) + "/dialects"; }
constexpr std::uintmax_t kLargestFile = 1 << 20;

} // namespace

Dialects::Dialects(AppModel& model) : ModelPart(model) { connect(&m_model, &AppModel::jobChanged, this, &Dialects::look); }

QString Dialects::word() const { return !hasJob() || job().program.dialect.empty() ? QString("tip") : QString::fromStdString(job().program.dialect); }

QString Dialects::fileOf(const QString& word) const {
    if (dialectNamed(word.toStdString())) return {};
    return QFileInfo(word).isAbsolute() ? word : QFileInfo(m_model.file()).absolutePath() + "/" + word;
}

// What lies in the shop's own folder is shipped with the program.
bool Dialects::isOwn(const QString& file) const {
    return !file.isEmpty() && QFileInfo(file).isWritable() && (m_model.shop().isEmpty() || QFileInfo(file).absoluteDir() != QDir(m_model.shop()));
}

std::vector<Dialects::Known> Dialects::known() const {
    std::vector<Known> out;
    for (const DialectKind& k : dialects()) out.push_back({k.word, tr(k.label)});
    const QString beside = QFileInfo(m_model.file()).absolutePath();
    QStringList seen;
    for (const QString& folder : {beside, m_model.shop(), ownFolder()}) {
        if (folder.isEmpty() || seen.contains(QDir(folder).absolutePath())) continue;
        seen << QDir(folder).absolutePath();
        for (const QFileInfo& f : QDir(folder).entryInfoList({QString("*") + kEnding}, QDir::Files, QDir::Name)) {
            const auto read = loadSpelling(f.absoluteFilePath().toStdString());
            const QString name = read ? QString::fromStdString(read->name) : tr("%1 (cannot be read)").arg(f.fileName());
            out.push_back({folder == beside ? f.fileName() : f.absoluteFilePath(), name});
        }
    }
    const QString now = word();
    if (std::none_of(out.begin(), out.end(), [&](const Known& k) { return k.word == now; }))
        out.push_back({now, m_spelling ? QString::fromStdString(m_spelling->name) : now});
    return out;
}

void Dialects::choose(const QString& word) {
    if (hasJob()) m_model.change(tr("change the kind of program"), [&](Job& j) { j.program.dialect = word == "tip" ? std::string() : word.toStdString(); });
}

Result<DialectChoice> Dialects::choice() const {
    if (!hasJob()) return DialectChoice{};
    return dialectOf(job(), m_model.file().toStdString());
}

void Dialects::look() {
    const QString now = hasJob() ? word() : QString();
    if (now == m_word && fileOf(now) == m_file) return;
    m_word = now;
    m_file = fileOf(now);
    m_spelling.reset();
    m_before.clear();
    if (!m_file.isEmpty()) {
        const auto text = readFile(m_file.toStdString(), kLargestFile);
        auto read = text ? spellingFromJson(*text, QFileInfo(m_file).fileName().toStdString()) : Result<Spelling>(tl::unexpected(text.error()));
        if (read) {
            m_spelling = std::move(*read);
            m_text = *text;
        } else
            tell(read.error());
    }
    emit changed();
}

void Dialects::open(bool on) {
    if (on && hasJob() && !isOwn(m_file) && !makeOwn()) return;
    m_open = on;
    emit changed();
}

bool Dialects::makeOwn() {
    Spelling made;
    if (m_spelling) {
        made = *m_spelling;
        made.name = tr("%1, own").arg(QString::fromStdString(made.name)).toStdString();
    } else if (const auto now = choice(); now) {
        const QString machine = place() ? QString::fromStdString(place()->machine->name) : tr("Own");
        made.kind = now->kind;
        made.ending = now->ending();
        made.words = job().program;
        made.words.inch = false;
        made.words.offset = ProgramWords().offset;
        made.words.dialect.clear();
        made.name = machine.toStdString();
    } else {
        tell(now.error());
        return false;
    }
    const QString folder = m_model.isCopy() || m_model.file().isEmpty() ? ownFolder() : QFileInfo(m_model.file()).absolutePath();
    QDir().mkpath(folder);
    const QString plain = QString::fromStdString(harmlessName(QString::fromStdString(made.name).toLower().remove(',').replace(' ', '-').toStdString()));
    QString file = folder + "/" + plain + kEnding;
    for (int i = 2; QFileInfo::exists(file); ++i) file = folder + "/" + plain + QString("-%1").arg(i) + kEnding;
    if (const auto ok = writeFileAtomic(file.toStdString(), spellingToJson(made)); !ok) {
        tell(ok.error());
        return false;
    }
    choose(folder == ownFolder() ? file : QFileInfo(file).fileName());
    return m_spelling.has_value();
}

bool Dialects::store(const Spelling& spelling) {
    const std::string text = spellingToJson(spelling);
    const auto there = readFile(m_file.toStdString(), kLargestFile);
    if (there && *there != m_text) { // somebody else's work
        tell(tr("%1 has changed on disk: it is read again").arg(QFileInfo(m_file).fileName()));
        m_word.clear();
        look();
        return false;
    }
    if (const auto ok = writeFileAtomic(m_file.toStdString(), text, true); !ok) {
        tell(ok.error());
        return false;
    }
    m_text = text;
    m_spelling = spelling;
    return true;
}

bool Dialects::change(const std::function<void(Spelling&)>& edit) {
    if (!m_spelling) return false;
    Spelling next = *m_spelling;
    edit(next);
    bool done = false;
    if (!(next == *m_spelling)) {
        if (const auto read = spellingFromJson(spellingToJson(next), next.name); !read)
            tell(read.error());
        else {
            const Spelling before = *m_spelling;
            done = store(next);
            if (done) m_before.push_back(before);
        }
    }
    emit changed();
    return done;
}

void Dialects::takeBack() {
    if (m_before.empty() || !m_spelling) return;
    const Spelling last = m_before.back();
    if (store(last)) m_before.pop_back();
    emit changed();
}

} // namespace gyre
