// A class of tests as a program. Several may be linked into one (GYRE_BUNDLES): the name it is called by says which is meant.
#pragma once
#include <QCoreApplication>
#include <QTest>

namespace gyre::test {

/// Lists what runs under a file's name, test_along.cpp as test-along.
struct Listed {
    Listed(const char* file, int (*run)(int, char**));
};

template <class Test> int runTest(int argc, char** argv) {
    const QCoreApplication app(argc, argv);
    Test test;
    return QTest::qExec(&test, argc, argv);
}

} // namespace gyre::test

#define GYRE_TEST(Test) static const gyre::test::Listed programOf##Test(__FILE__, gyre::test::runTest<Test>);
/// One that opens windows.
#define GYRE_WINDOW_TEST(Test) static const gyre::test::Listed programOf##Test(__FILE__, gyre::test::runWindowTest<Test>);
