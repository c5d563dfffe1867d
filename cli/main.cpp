#include "Commands.h"
#include <iostream>

int main(int argc, char** argv) { return gyre::runCommandLine(argc, argv, std::cout, std::cerr); }
