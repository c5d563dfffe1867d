// The set-up sheet and the comparison of the stock, from what the window has open.
#pragma once
#include "model/OpenJob.h"
#include "session/SetupSheet.h"
#include <QImage>

namespace gyre {

class StockShow;

/// An HTML page, or a PDF where the file's name ends so. @param view  what is seen of the part  @param programs  as they are stored or would be
Status storeSetupSheet(OpenJob& open, const QString& file, const QImage& view, const std::vector<SetupSheetInput::NamedProgram>& programs);
/// How far the stock that is shown is off the part; an HTML page.
Status storeComparison(OpenJob& open, const StockShow& stock, const QString& file, const QImage& view);
/// The tools of the active operations as CSV.
Status storeToolList(OpenJob& open, const QString& file);

} // namespace gyre
