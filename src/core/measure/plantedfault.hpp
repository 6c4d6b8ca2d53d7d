// SPDX-License-Identifier: GPL-3.0-or-later
// A project with a fault in it, as a bench would show it: what every check then reads, and which
// single fault a set of readings speaks of (docs/model.md: Bench: readings and checks).
#pragma once

#include "measure/checks.hpp"
#include "protect/faults.hpp"

#include <set>

namespace sipper {

/// One fault of one part. `volts`: what a mis-set one is set to.
struct PlantedFault {
    std::string stage;
    FaultKind kind = FaultKind::failsOpen;
    std::optional<double> volts;
    bool operator==(const PlantedFault&) const = default;
};

/// `buck=short`, `guard=open`, `boost=mis_set:13.2 V`. Without volts a mis-set one is a tenth over
/// what it should be. Errors: "fault" for the form, "dangling_id" for no such stage, "kind" where
/// the part can't have that fault.
[[nodiscard]] Outcome<PlantedFault> readFault(const Project& project, std::string_view text);
/// `buck=mis_set:13.2`: what `readFault` reads.
[[nodiscard]] std::string writeFault(const PlantedFault& fault);
/// In words: `Buck 5 is open`, `Guard is set to 3.4 V`.
[[nodiscard]] std::string faultSentence(const Project& project, const PlantedFault& fault);

/// The project on the bench with its faults. A part that fails short is a piece of wire; behind one
/// that is open there is nothing.
class FaultyBench {
  public:
    FaultyBench(const Project& project, const std::vector<PlantedFault>& faults);
    [[nodiscard]] const Project& project() const { return m_project; }
    /// Is the stage or load behind something that is open?
    [[nodiscard]] bool isUnpowered(const std::string& id) const { return m_unpowered.contains(id); }
    /// What the check reads, as who does it with care; nothing on a collapse.
    [[nodiscard]] std::optional<double> read(const BenchCheck& check, double charge,
                                             Celsius ambient) const;
    /// Several at once: the line is solved once.
    [[nodiscard]] std::vector<std::optional<double>> read(const std::vector<BenchCheck>& checks,
                                                          double charge, Celsius ambient) const;

  private:
    Project m_project;
    std::map<std::string, FaultKind> m_faults;
    std::set<std::string> m_unpowered;
};

/// Every single fault of the line that moves a check of the bench out of its band: those that can
/// be found by measuring.
[[nodiscard]] std::vector<PlantedFault> noticeableFaults(const Project& project);

/// A fault that would read as what was read.
struct Suspect {
    PlantedFault fault;
    int explained = 0; ///< readings outside their band that it puts inside
    int against = 0;   ///< readings that it puts, or leaves, outside
};

/// The single faults that explain the readings outside their bands better than none does, the best
/// first, at most three. Empty where all are inside, and where none explains half of them.
[[nodiscard]] std::vector<Suspect> suspectsOf(const Project& project, const BenchAnalysis& bench);

/// Are more than half of three readings or more outside their bands? Then nothing is to be learned
/// of them but that something is wrong.
[[nodiscard]] bool readsStrange(const BenchAnalysis& bench);

/// What the readings that are outside say together, in a sentence or two: the part to look at, or
/// that they can't be of this supply. Empty where all are inside.
[[nodiscard]] std::string suspectText(const Project& project, const BenchAnalysis& bench);

} // namespace sipper
