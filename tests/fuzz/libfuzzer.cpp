// One program per reader for libFuzzer; GYRE_FUZZ_TARGET names the reader. See CONTRIBUTING.
#include "Readers.h"
#include <cstring>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* data, std::size_t size) {
    static const gyre::test::FuzzTarget& target = []() -> const gyre::test::FuzzTarget& {
        for (const auto& t : gyre::test::fuzzTargets())
            if (std::strcmp(t.name, GYRE_FUZZ_TARGET) == 0) return t;
        __builtin_trap();
    }();
    (void)target.read(std::string(reinterpret_cast<const char*>(data), size));
    return 0;
}
