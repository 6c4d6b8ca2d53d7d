// Every voltage that occurs over one whole charge: the bands of the supply line, and what the rules
// of advice look at.
#pragma once

#include "line/operating.hpp"
#include "runtime/runtime.hpp"

#include <functional>
#include <memory>

namespace sipper {

struct Band {
    double low = 0;
    double high = 0;
    bool seen = false;
    void include(double v) {
        low = seen ? std::min(low, v) : v;
        high = seen ? std::max(high, v) : v;
        seen = true;
    }
};

/// One place and moment: the figure with the charge and mode it was seen at.
struct Sighting {
    double value = 0;
    double charge = 1;
    std::size_t mode = 0;
    bool inBurst = false;
    bool seen = false;
};

/// All modes and bursts at level wells from full down to the stop: where a guard or an input
/// minimum opens, the line collapses, or the cells are empty, whichever comes first.
struct Survey {
    double stopCharge = 0;      ///< 0–1
    std::optional<Ending> stop; ///< what opens or collapses there; nothing: the cells are empty
    bool neverRuns = false;     ///< it stops at full charge
    std::vector<Band> stageIn;  ///< over the charge, all modes
    std::vector<Band> stageOut;
    std::vector<Band> loads;
    std::vector<Sighting> loadLow;   ///< lowest voltage at each load, bursts left out
    std::vector<Sighting> loadBurst; ///< lowest in a burst
    std::vector<Sighting> loadHigh;  ///< highest
    std::vector<Sighting> leavesAt;  ///< highest charge at which a load is under its window
    std::vector<Sighting> dropsAt;   ///< highest charge at which a regulator has lost its set-point
    std::vector<Sighting> passesAt;  ///< a boost that passes its input through
    std::vector<Sighting> mostOut;   ///< largest output current of each stage
    std::vector<Sighting> mostIn;    ///< largest input current of each stage
    std::vector<Sighting> mostLoad;  ///< largest current into each load
    std::vector<Sighting> mostInductor; ///< largest inductor current
    std::vector<Sighting> mostLoss;     ///< most watts burnt in each stage, bursts left out
    std::vector<StageFlow> atMostLoss;  ///< the flow then
    std::vector<Sighting> mostWatts;    ///< most output watts of each stage
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
    Sighting mostPack; ///< largest pack current
};

inline constexpr int kSurveyPoints = 60;

/// Surveys under the given conditions. Needs a pack.
[[nodiscard]] Survey survey(const Project& project, const Conditions& conditions);

/// What may be asked of every mode and burst at one charge.
using SeenIn = std::function<bool(const Flows& flows, std::size_t mode, bool burst)>;
/// From where to where it holds between full and the survey's stop: the highest charge, read to a
/// 4000th of the charge, with its mode, and how much of the whole charge lies between the two.
struct Spell {
    Sighting first; ///< value: unused
    double share = 0;
    [[nodiscard]] bool seen() const { return first.seen; }
};
class Surveyor;
/// Spells of one project in its typical air: what was solved for one is kept for the next. It looks
/// at a project and a survey that outlive it.
class Spells {
  public:
    Spells(const Project& project, const Survey& known);
    ~Spells();
    Spells(const Spells&) = delete;
    Spells& operator=(const Spells&) = delete;
    [[nodiscard]] Spell of(const SeenIn& holds) const;

  private:
    std::unique_ptr<Surveyor> m_surveyor;
    const Survey& m_known;
};

} // namespace sipper
