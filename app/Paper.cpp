#include "Paper.h"
#include "base/File.h"
#include "model/StockShow.h"
#include "panels/Silhouette.h"
#include "session/ComparisonPage.h"
#include "session/SetupSheet.h"
#include <QBuffer>
#include <QPainter>
#include <QPdfWriter>
#include <QSaveFile>
#include <QTextDocument>

namespace gyre {

namespace {

Result<SetupSheetInput> inputOf(OpenJob& open) {
    if (!open.hasJob() || !open.place()) return fail("the job is not computed yet", {}, "Wait until the paths are there");
    if (const auto changed = open.changedInputs(); !changed.empty()) {
        open.computeNow(true);
        return fail("the file has changed since the paths were computed", changed.front().filename().string(),
                    "They are computed anew now; store again when that is done");
    }
    SetupSheetInput in{.job = open.job(), .place = open.place(), .findings = open.findings(), .proven = open.allProven()};
    for (const Recipe& r : open.job().worked()) {
        const QString id = QString::fromStdString(r.id);
        if (!open.upToDate(id)) return fail("the path is older than the recipe", r.name, "Wait until it is computed");
        in.operations.push_back(open.result(id));
    }
    return in;
}

QImage toolPicture(const Assembly& tool) {
    QImage image(QSize(200, 480), QImage::Format_ARGB32_Premultiplied);
    image.fill(Qt::white);
    QPainter p(&image);
    p.setRenderHint(QPainter::Antialiasing);
    drawSilhouette(p, tool, QRectF(image.rect()).adjusted(4, 4, -4, -4));
    return image;
}

std::string bytesOf(const QImage& view) {
    QByteArray png;
    QBuffer buffer(&png);
    return !view.isNull() && buffer.open(QIODevice::WriteOnly) && view.save(&buffer, "PNG") ? png.toStdString() : std::string();
}

// Pages are laid out by Qt's own text: it fetches pictures by their names.
Status storePdf(SetupSheetInput& in, const QString& file, const QImage& view) {
    in.linked = true;
    QTextDocument page;
    for (const SetupTool& t : setupTools(in))
        page.addResource(QTextDocument::ImageResource, QUrl(QString("gyre:tool/%1").arg(t.number)), toolPicture(t.tool).scaledToHeight(110, Qt::SmoothTransformation));
    if (!view.isNull()) page.addResource(QTextDocument::ImageResource, QUrl("gyre:view/1"), view.scaledToWidth(std::min(view.width(), 620), Qt::SmoothTransformation));
    page.setHtml(QString::fromStdString(setupSheet(in)));
    QSaveFile out(file);
    if (!out.open(QIODevice::WriteOnly)) return fail("the file cannot be written", file.toStdString(), "Choose another folder");
    {
        QPdfWriter writer(&out);
        writer.setPageSize(QPageSize(QPageSize::A4));
        writer.setPageMargins(QMarginsF(12, 12, 12, 12), QPageLayout::Millimeter);
        writer.setTitle(QString::fromStdString(in.job.name));
        writer.setCreator("Humble Gyre");
        page.print(&writer);
    }
    if (!out.commit()) return fail("the file cannot be written", file.toStdString(), "Choose another folder");
    return {};
}

} // namespace

Status storeSetupSheet(OpenJob& open, const QString& file, const QImage& view, const std::vector<SetupSheetInput::NamedProgram>& programs) {
    if (auto may = open.mayStore(file); !may) return may;
    auto in = inputOf(open);
    if (!in) return tl::unexpected(in.error());
    in->programs = programs;
    if (std::string png = bytesOf(view); !png.empty()) in->pictures.push_back({QObject::tr("As the window showed it").toStdString(), std::move(png)});
    if (file.endsWith(".pdf", Qt::CaseInsensitive)) return storePdf(*in, file, view);
    return writeFileAtomic(file.toStdString(), setupSheet(*in), true);
}

Status storeComparison(OpenJob& open, const StockShow& stock, const QString& file, const QImage& view) {
    if (auto may = open.mayStore(file); !may) return may;
    const auto& picture = stock.picture();
    if (!open.hasJob() || !picture || !picture->compared) return fail("the stock is not compared yet", {}, "Show its deviation, and wait until it is there");
    if (picture->old) return fail("the stock was cut with paths from before a change", {}, "Wait until it is cut anew");
    ComparisonPageInput in{.job = open.job(), .compared = *picture->compared, .cutBy = {}, .picture = bytesOf(view)};
    for (const QString& name : picture->cutBy) in.cutBy.push_back(name.toStdString());
    return writeFileAtomic(file.toStdString(), comparisonPage(in), true);
}

Status storeToolList(OpenJob& open, const QString& file) {
    if (auto may = open.mayStore(file); !may) return may;
    const auto in = inputOf(open);
    if (!in) return tl::unexpected(in.error());
    return writeFileAtomic(file.toStdString(), toolList(*in), true);
}

} // namespace gyre
