// What tests share: seeds that are printed, demo files, simple exact shapes as STEP files.
#pragma once
#include "job/Session.h"
#include <QTemporaryDir>
#include <QTest>
#include <filesystem>
#include <random>

namespace gyre::test {

/// A generator whose seed is printed, so that a failure can be repeated with GYRE_SEED.
class Random {
public:
    explicit Random(unsigned salt);
    double number(double low, double high) { return std::uniform_real_distribution<double>(low, high)(m_engine); }
    int integer(int low, int high) { return std::uniform_int_distribution<int>(low, high)(m_engine); }
    Vec3 point(double size) { return {number(-size, size), number(-size, size), number(-size, size)}; }
    Vec3 direction();

private:
    std::mt19937 m_engine;
};

std::filesystem::path demoFile(const std::string& name);
Machine demoMachine(const std::string& file);
std::shared_ptr<const Part> openPart(const std::filesystem::path& file);

/// STEP files of exact shapes in a folder.
std::filesystem::path cylinderStep(const std::filesystem::path& folder, double radius, double height);
std::filesystem::path boxStep(const std::filesystem::path& folder, double x, double y, double z);
std::filesystem::path coneStep(const std::filesystem::path& folder, double lower, double upper, double height);

Assembly ballTool(double diameter, double stickOut);

/// The demo job, computed once for the whole test program.
struct DemoResults {
    Job job;
    JobResults results;
    StageCache cache;
};
DemoResults& demoResults();

} // namespace gyre::test
