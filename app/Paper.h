// The set-up sheet and the comparison of the stock, from what the window has open.
#pragma once
#include "model/AppModel.h"
#include <QImage>

namespace gyre {

/// An HTML page, or a PDF where the file's name ends so. @param view  what is seen of the part; @param program  name of the NC file; empty: none is written
Status storeSetupSheet(AppModel& model, const QString& file, const QImage& view, const QString& program);
/// How far the stock that is shown is off the part; an HTML page.
Status storeComparison(AppModel& model, const QString& file, const QImage& view);
/// The tools of the active operations as CSV.
Status storeToolList(AppModel& model, const QString& file);

} // namespace gyre
