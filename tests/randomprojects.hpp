// SPDX-License-Identifier: GPL-3.0-or-later
// Valid projects by the hundred: what ships and the references, with parts, counts, settings,
// draws, air and topology changed at random. The same seed gives the same projects.
#pragma once

#include "improve/swaps.hpp"
#include "project/build.hpp"
#include "project/library.hpp"
#include "support.hpp"

#include <algorithm>
#include <random>

namespace sipper::test {

class RandomProjects {
  public:
    explicit RandomProjects(unsigned seed) : m_random(seed), m_library(loadLibrary()) {
        for (const char* folder : {"data/examples", "data/recipes", "tests/files/reference"})
            for (const auto& entry :
                 std::filesystem::directory_iterator(std::filesystem::path(SIPPER_SOURCE) / folder))
                if (entry.path().extension() == ".sipper")
                    m_bases.push_back(entry.path());
        std::sort(m_bases.begin(), m_bases.end());
    }

    /// A project of which `checkProject` has nothing to say.
    Project next() {
        const std::filesystem::path& base = m_bases[below(m_bases.size())];
        m_from = base.filename().string();
        Project p = load(base);
        for (std::size_t changes = 1 + below(6); changes > 0; --changes) {
            Project with = p;
            change(with);
            if (!checkProject(with))
                p = std::move(with);
        }
        return p;
    }
    /// File of the last one, for messages.
    [[nodiscard]] const std::string& from() const { return m_from; }

    std::size_t below(std::size_t count) { return m_random() % count; }
    double between(double low, double high) {
        return low + (high - low) * static_cast<double>(m_random()) / 4294967296.0;
    }
    /// A factor, as likely under one as over it.
    double factor(double most) { return std::exp(between(-1, 1) * std::log(most)); }

  private:
    void change(Project& p) {
        if (p.stages.empty())
            return;
        switch (below(8)) {
        case 0:
            return swap(p);
        case 1:
            return count(p);
        case 2:
            return draw(p);
        case 3:
            return lead(p);
        case 4:
            return charger(p);
        case 5:
            return figure(p);
        case 6:
            return topology(p);
        default:
            p.brief.ambient.emplace();
            p.brief.ambient->typical = Celsius{between(-15, 35)};
        }
    }
    void swap(Project& p) {
        const Stage& stage = p.stages[below(p.stages.size())];
        std::vector<const LibraryPart*> fit;
        for (const LibraryPart& part : m_library.parts)
            if (interchangeable(stage.part, part.stage.part))
                fit.push_back(&part);
        if (!fit.empty())
            p = withSwap(p, stage.id, *fit[below(fit.size())]);
    }
    void count(Project& p) {
        for (Stage& stage : p.stages)
            if (auto* pack = std::get_if<Pack>(&stage.part); pack && below(2) == 0)
                countCells(*pack, 1 + static_cast<double>(below(6)),
                           1 + static_cast<double>(below(4)));
    }
    void draw(Project& p) {
        if (p.loads.empty())
            return;
        for (Draw& d : p.loads[below(p.loads.size())].draws) {
            const double by = factor(8);
            if (d.current)
                *d.current *= by;
            if (d.power)
                *d.power *= by;
            if (d.resistance)
                *d.resistance /= by;
            if (d.burst)
                *d.burst *= factor(4);
        }
    }
    void lead(Project& p) {
        for (Stage& stage : p.stages) {
            if (auto* wire = std::get_if<Wire>(&stage.part); wire && below(2) == 0) {
                wire->awg.reset();
                wire->area = SquareMillimetres{factor(6) * 0.75};
                wire->length = Metres{factor(10) * 0.5};
            }
            if (auto* fuse = std::get_if<Fuse>(&stage.part); fuse && below(2) == 0)
                fuse->rating *= factor(4);
        }
    }
    void charger(Project& p) {
        for (Stage& stage : p.stages)
            if (auto* c = std::get_if<Charger>(&stage.part)) {
                if (c->chargeCurrent && below(2) == 0)
                    *c->chargeCurrent *= factor(5);
                if (c->endCurrent && below(2) == 0)
                    *c->endCurrent *= factor(5);
                if (below(3) == 0)
                    c->topology = static_cast<Topology>(below(4));
            }
    }
    void figure(Project& p) {
        Stage& stage = p.stages[below(p.stages.size())];
        if (const auto set = setPointOf(stage.part))
            static_cast<void>(setPointTo(stage.part, *set * factor(1.6)));
        else if (auto* guard = std::get_if<Guard>(&stage.part)) {
            guard->cutoff *= factor(1.3);
            guard->reconnect = guard->cutoff * between(1, 1.2);
        } else if (auto* pack = std::get_if<Pack>(&stage.part))
            pack->health = between(0.4, 1);
    }
    void topology(Project& p) {
        const Stage& stage = p.stages[below(p.stages.size())];
        Stage fresh;
        fresh.id = freeId(p, "fresh");
        switch (below(4)) {
        case 0:
            fresh.part = Diode{};
            break;
        case 1:
            fresh.part = Switch{};
            break;
        case 2: {
            Wire wire;
            wire.area = SquareMillimetres{factor(6) * 0.5};
            wire.length = Metres{factor(5) * 0.4};
            fresh.part = wire;
            break;
        }
        default:
            p = withoutStage(p, stage.id);
            return;
        }
        p = below(2) == 0 ? withStageBetween(p, fresh, stage.id)
                          : withStageBefore(p, fresh, stage.id);
    }

    std::mt19937 m_random;
    Library m_library;
    std::vector<std::filesystem::path> m_bases;
    std::string m_from;
};

} // namespace sipper::test
