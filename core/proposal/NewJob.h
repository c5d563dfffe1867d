// The first guesses that a new job and new rows begin with.
#pragma once
#include "job/Job.h"
#include "pattern/PatternSpec.h"

namespace gyre {

struct Workplace;

/// A job around a part file, in the file's own folder: with a machine and all tools that lie beside it, or else in the shop.
/// @param machine  name or file of the machine that is wanted; empty: the first that is known
[[nodiscard]] Result<Job> jobAround(const std::filesystem::path& partFile, const std::filesystem::path& shop, const std::string& machine = {});

/// Stock around the part, and the part on the table's seat when nothing holds it yet.
void proposeSetup(Job& job, const Part& part, double allowance = 2.0);

/// Rows on a surface: as the rows before them are cut, else with the first tool and a skin around everything.
[[nodiscard]] Recipe proposeRows(const Job& job, const Workplace& place, const Recipe* before);

/// Rails that suit the picked faces as the pattern goes by them: for a passage the upper edges of its walls and of what stands between, for any other two long
/// sides that face each other. Where none can be told there are none.
void fitRails(const Part& part, Recipe& recipe);
/// The pattern has become another one: rails that were found for the one before may be none for this.
void fitPattern(const Part& part, PatternBy before, Recipe& recipe);

/// Work that is repeated about an axis comes and goes from all around it: its skin becomes a cylinder, or a sphere, around everything.
void fitRepeat(const Workplace& place, Recipe& recipe);

} // namespace gyre
