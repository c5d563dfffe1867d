#include "WindowTest.h"

namespace gyre::test {

int runWithWindows(int argc, char** argv, const std::function<int()>& tests) {
    QSurfaceFormat::setDefaultFormat(Renderer::surfaceFormat());
    const QApplication app(argc, argv);
    applyTheme(false);
    return tests();
}

} // namespace gyre::test
