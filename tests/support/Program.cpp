#include "Program.h"
#include <cstdio>
#include <cstdlib>
#include <filesystem>
#include <map>
#include <string>
#include <vector>

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
    const std::string name = std::filesystem::path(argv[0]).filename().string();
    // GYRE_TIMES names a folder: how long each function took, a file for each program (JUnit's XML).
    std::vector<char*> with(argv, argv + argc);
    std::string table, both[] = {"-o", "-,txt", "-o"};
    if (const char* folder = std::getenv("GYRE_TIMES")) {
        table = std::string(folder) + "/" + name + ".xml,junitxml";
        for (std::string* word : {&both[0], &both[1], &both[2], &table}) with.push_back(word->data());
    }
    argc = static_cast<int>(with.size());
    with.push_back(nullptr);
    argv = with.data();
    const auto found = all.find(name);
    if (found != all.end()) return found->second(argc, argv);
    if (all.size() == 1) return all.begin()->second(argc, argv);
    std::fputs("Called by the name of one of them:", stderr);
    for (const auto& [name, run] : all) std::fprintf(stderr, " %s", name.c_str());
    std::fputs("\n", stderr);
    return 2;
}
