#include "Program.h"
#include <cstdio>
#include <filesystem>
#include <map>
#include <string>

namespace gyre::test {
namespace {

using Programs = std::map<std::string, int (*)(int, char**)>;

Programs& programs() {
    static Programs all;
    return all;
}

} // namespace

Listed::Listed(const char* file, int (*run)(int, char**)) {
    std::string name = std::filesystem::path(file).stem().string();
    name.replace(0, std::string("test_").size(), "test-");
    programs()[name] = run;
}

} // namespace gyre::test

int main(int argc, char** argv) {
    const auto& all = gyre::test::programs();
    const auto found = all.find(std::filesystem::path(argv[0]).filename().string());
    if (found != all.end()) return found->second(argc, argv);
    if (all.size() == 1) return all.begin()->second(argc, argv);
    std::fputs("Called by the name of one of them:", stderr);
    for (const auto& [name, run] : all) std::fprintf(stderr, " %s", name.c_str());
    std::fputs("\n", stderr);
    return 2;
}
