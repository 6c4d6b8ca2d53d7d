// SPDX-License-Identifier: GPL-3.0-or-later
// Every voltage that occurs over one whole charge: the bands of the supply line, and what the rules
// of advice look at.
#pragma once

#include "line/operating.hpp"
#include "runtime/runtime.hpp"

#include <functional>
#include <memory>
#include <mutex>

namespace sipper {

struct VoltageRange {
    double low = 0;
    double high = 0;
    bool valid = false;
    void include(double v) {
        low = valid ? std::min(low, v) : v;
        high = valid ? std::max(high, v) : v;
        valid = true;
    }
};

/// One place and moment: the figure with the charge and mode it was seen at.
struct Occurrence {
    double value = 0;
    double charge = 1;
    std::size_t mode = 0;
    bool inBurst = false;
    bool valid = false;
};

/// All modes and bursts at level wells from full down to the stop: where a guard or an input
/// minimum opens, the line collapses, or the cells are empty, whichever comes first.
struct OperatingSweep {
    double stopCharge = 0;      ///< 0–1
    std::optional<Ending> stop; ///< what opens or collapses there; nothing: the cells are empty
    bool neverRuns = false;     ///< it stops at full charge
    std::vector<VoltageRange> stageIn; ///< over the charge, all modes
    std::vector<VoltageRange> stageOut;
    std::vector<VoltageRange> loads;
    std::vector<Occurrence> loadLow;   ///< lowest voltage at each load, bursts left out
    std::vector<Occurrence> loadBurst; ///< lowest in a burst
    std::vector<Occurrence> loadHigh;  ///< highest
    std::vector<Occurrence>
        firstUndervoltage; ///< highest charge at which a load is under its window
    std::vector<Occurrence>
        firstDropout; ///< highest charge at which a regulator has lost its set-point
    std::vector<Occurrence> passesAt;    ///< a boost that passes its input through
    std::vector<Occurrence> maxOut;      ///< largest output current of each stage
    std::vector<Occurrence> maxIn;       ///< largest input current of each stage
    std::vector<Occurrence> maxLoad;     ///< largest current into each load
    std::vector<Occurrence> maxInductor; ///< largest inductor current
    std::vector<Occurrence> maxLoss;     ///< most watts burnt in each stage, bursts left out
    std::vector<StageFlow> atMaxLoss;    ///< the flow then
    std::vector<Occurrence> maxWatts;    ///< most output watts of each stage
    void resize(std::size_t stages, std::size_t loadCount);
    /// The moment that flows belong to.
    struct At {
        double charge = 1;
        std::size_t mode = 0;
        bool inBurst = false;
    };
    /// Raises the worst draw of the pack to that of a run: where wells are not level, the less
    /// volts, and a constant power the more current.
    void include(const Project& project, const Runtime& run);
    /// Which sighting of a lost set-point or window counts: the first on the way down, or the
    /// lowest.
    enum class Keep { first, least };
    /// Takes all that a network reaches at one moment into bands and sightings; the source's own
    /// volts are the caller's.
    void take(const Project& project, const Network& network, const Flows& flows, const At& at,
              Keep keep);
    /// Takes one stage's flow at one moment into bands and sightings.
    void takeStage(std::size_t i, const StageFlow& flow, double charge, std::size_t mode,
                   bool burst);
    Occurrence maxPack; ///< largest pack current
};

inline constexpr int kSurveyPoints = 60;

/// Surveys under the given conditions. Needs a pack.
[[nodiscard]] OperatingSweep sweepOperation(const Project& project, const Conditions& conditions);

/// What may be asked of every mode and burst at one charge.
using FlowPredicate = std::function<bool(const Flows& flows, std::size_t mode, bool burst)>;
/// From where to where it holds between full and the sweep's stop: the highest charge, read to a
/// 4000th of the charge, with its mode, and how much of the whole charge lies between the two.
struct ChargeInterval {
    Occurrence first; ///< value: unused
    double share = 0;
    [[nodiscard]] bool valid() const { return first.valid; }
};
class OperatingSweeper;
/// ChargeIntervals of one project in its typical air: what was solved for one is kept for the next.
/// It looks at a project and a sweep that outlive it.
class ChargeIntervals {
  public:
    ChargeIntervals(const Project& project, const OperatingSweep& known);
    ~ChargeIntervals();
    ChargeIntervals(const ChargeIntervals&) = delete;
    ChargeIntervals& operator=(const ChargeIntervals&) = delete;
    [[nodiscard]] ChargeInterval of(const FlowPredicate& holds) const;

  private:
    std::unique_ptr<OperatingSweeper> m_sweeper;
    const OperatingSweep& m_known;
    mutable std::mutex m_asking; ///< what the sweeper keeps is shared by all who ask
};

} // namespace sipper
