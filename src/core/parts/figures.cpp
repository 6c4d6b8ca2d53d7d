// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/figures.hpp"

#include "parts/kinds.hpp"

#include <algorithm>
#include <cmath>
#include <type_traits>

namespace sipper {
namespace {

constexpr double kFanFactor = 0.45; ///< rule of thumb: what is left of theta with air blown over it

template <class P>
concept Active = std::is_base_of_v<ActivePart, P>;

std::optional<double> firstAbove0(std::initializer_list<double> figures) {
    for (const double f : figures)
        if (f > 0)
            return f;
    return std::nullopt;
}

} // namespace

double piecesOf(const Pack& pack) {
    return pack.pieces.value_or(pack.series * pack.parallel);
}

void countCells(Pack& pack, double series, double parallel) {
    if (pack.pieces)
        pack.pieces = std::max(
            1.0, std::round(*pack.pieces * series * parallel / (pack.series * pack.parallel)));
    if (pack.weakestGroup && pack.parallel > 0) // a cell more in every group, the weakest too
        pack.weakestGroup = *pack.weakestGroup * (parallel / pack.parallel);
    pack.series = series;
    pack.parallel = parallel;
}

const ActivePart* active(const Part& part) {
    return std::visit(
        []<class P>(const P& p) -> const ActivePart* {
            if constexpr (Active<P>)
                return &p;
            else
                return nullptr;
        },
        part);
}

ActivePart* active(Part& part) {
    return const_cast<ActivePart*>(active(std::as_const(part)));
}

std::optional<Amps> setCurrentOf(const Part& part) {
    const ActivePart* a = active(part);
    return a && a->regulates == Regulates::current ? a->setAmps : std::nullopt;
}

std::optional<Volts> setPointOf(const Part& part) {
    return std::visit(
        []<class P>(const P& p) -> std::optional<Volts> {
            if constexpr (std::is_base_of_v<ActivePart, P>)
                if (p.regulates == Regulates::current)
                    return std::nullopt;
            if constexpr (requires { p.set; })
                return p.set;
            else
                return std::nullopt;
        },
        part);
}

bool setPointTo(Part& part, Volts volts) {
    return std::visit(
        [&]<class P>(P& p) {
            if constexpr (requires { p.set; }) {
                p.set = volts;
                return true;
            } else {
                return false;
            }
        },
        part);
}

double quiescentOf(const Part& part) {
    return std::visit(
        []<class P>(const P& p) {
            double amps = 0;
            if constexpr (requires { p.quiescent; })
                amps = orZero(p.quiescent);
            if constexpr (requires { p.ground; })
                amps = std::max(amps, orZero(p.ground));
            return amps;
        },
        part);
}

double neverAboveOf(const Part& part) {
    if (const auto* capacitor = std::get_if<Capacitor>(&part))
        return orZero(capacitor->ratedVoltage);
    const ActivePart* a = active(part);
    return a ? orZero(a->inputNeverAbove) : 0;
}

double inputMinOf(const Part& part) {
    const ActivePart* a = active(part);
    return a ? orZero(a->inputMin) : 0;
}

double startMinOf(const Part& part) {
    const ActivePart* a = active(part);
    return a ? orZero(a->startMin) : 0;
}

double maxPartOf(const Part& part) {
    const ActivePart* a = active(part);
    return a ? orZero(a->maxPart) : 0;
}

double endStopOf(const Part& part) {
    const ActivePart* a = active(part);
    return !a ? 0 : a->setMax ? a->setMax->value() : orZero(a->adjustMax);
}

bool hasFan(const Part& part) {
    const ActivePart* a = active(part);
    return a && a->fan.value_or(false);
}

double thetaOf(const Part& part) {
    const ActivePart* a = active(part);
    return a ? orZero(a->thermal) * (hasFan(part) ? kFanFactor : 1.0) : 0;
}

OutputLimits limitsOf(const Part& part) {
    return std::visit(
        []<class P>(const P& p) {
            OutputLimits limits;
            if constexpr (Active<P>) {
                limits.amps = orZero(p.outputLimit);
                limits.watts = orZero(p.powerLimit);
                if constexpr (requires { p.switchLimit; })
                    limits.inductor = orZero(p.switchLimit);
                if constexpr (requires { p.ratedCurrent; })
                    limits.rated = orZero(p.ratedCurrent);
            }
            return limits;
        },
        part);
}

LossTerms lossTermsOf(const Part& part) {
    return std::visit(
        []<class P>(const P& p) {
            LossTerms t;
            if constexpr (requires { p.fixed; })
                t = {orZero(p.quiescent), orZero(p.fixed), orZero(p.drop), orZero(p.resistance),
                     orZero(p.switching)};
            if constexpr (requires {
                              p.fixed;
                              p.ground;
                          }) // a charger may be a linear one
                t.quiescent = std::max(t.quiescent, orZero(p.ground));
            return t;
        },
        part);
}

SeriesTerms seriesTermsOf(const Part& part) {
    SeriesTerms t;
    if (kindFacts(part).losses != LossRule::series)
        return t;
    std::visit(
        [&]<class P>(const P& p) {
            if constexpr (requires { p.drop; })
                t.drop = orZero(p.drop);
            if constexpr (requires { p.resistance; })
                t.resistance = orZero(p.resistance);
        },
        part);
    return t;
}

std::optional<double> labelVolts(const Part& part) {
    if (const auto* pack = std::get_if<Pack>(&part))
        return pack->cell.nominal ? std::optional(pack->cell.nominal->value()) : std::nullopt;
    double own = 0;
    if (const auto* guard = std::get_if<Guard>(&part))
        own = guard->cutoff.value();
    else if (const auto* fuse = std::get_if<Fuse>(&part))
        own = orZero(fuse->ratedVoltage);
    else if (const auto* adapter = std::get_if<Adapter>(&part))
        own = adapter->set ? adapter->set->value() : orZero(adapter->rated);
    return firstAbove0({neverAboveOf(part), own, orZero(setPointOf(part))});
}

double sleepsBelowOf(const Part& part) {
    return std::visit(
        []<class P>(const P& p) {
            if constexpr (requires { p.sleepsBelow; })
                return orZero(p.sleepsBelow);
            else
                return 0.0;
        },
        part);
}

std::optional<double> labelAmps(const Part& part) {
    if (const auto* pack = std::get_if<Pack>(&part))
        return pack->cell.maxDischarge ? std::optional(pack->cell.maxDischarge->value())
                                       : std::nullopt;
    if (const auto* adapter = std::get_if<Adapter>(&part))
        return firstAbove0({orZero(adapter->limit), orZero(adapter->ratedCurrent)});
    if (const auto* usb = std::get_if<Usb>(&part))
        return firstAbove0({orZero(usb->advertises)});
    if (const auto* guard = std::get_if<Guard>(&part))
        return firstAbove0({orZero(guard->maxCurrent)});
    if (const auto* fuse = std::get_if<Fuse>(&part))
        return firstAbove0({fuse->rating.value()});
    const OutputLimits limits = limitsOf(part);
    return firstAbove0({limits.amps, limits.rated, limits.inductor});
}

} // namespace sipper
