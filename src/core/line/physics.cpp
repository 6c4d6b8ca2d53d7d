// SPDX-License-Identifier: GPL-3.0-or-later
#include "line/physics.hpp"

#include "parts/figures.hpp"
#include "quantity/read.hpp"

namespace sipper {
namespace {

constexpr double kCopper20 = 1.724e-8; ///< ohm m (IEC 60028)
constexpr double kCopperPerK = 0.00393;

/// What a divider takes, in 1/ohm; 0 without one.
double acrossOf(const SetByDivider& d) {
    return d.upper && d.lower ? 1 / (d.upper->value() + d.lower->value()) : 0;
}

/// One function a kind; no template and no default, so that a new kind must say what it does.
struct Compiler {
    Celsius ambient;
    double lossScale;

    Physics operator()(const Pack&) const { return {}; }
    Physics operator()(const Adapter&) const { return {}; }
    Physics operator()(const Usb&) const { return {}; }
    Physics operator()(const Vehicle&) const { return {}; }
    Physics operator()(const Panel&) const { return {}; }
    Physics operator()(const Charger&) const { return {}; }
    Physics operator()(const Guard& p) const {
        Physics n;
        n.kind = TransferKind::guard;
        n.quiescent = orZero(p.quiescent);
        n.resistance = orZero(p.resistance);
        n.trip = orZero(p.maxCurrent);
        n.shunt = acrossOf(p);
        return n;
    }
    Physics operator()(const Fuse& p) const {
        Physics n;
        n.kind = TransferKind::fuse;
        n.resistance = orZero(p.resistance);
        n.trip = p.rating.value();
        return n;
    }
    Physics operator()(const Switch& p) const { return series(orZero(p.resistance)); }
    Physics operator()(const Wire& p) const { return series(wireOhms(p, ambient)); }
    Physics operator()(const Diode& p) const {
        return series(orZero(p.resistance), orZero(p.drop));
    }
    Physics operator()(const IdealDiode& p) const { return series(orZero(p.resistance)); }
    Physics operator()(const Filter& p) const { return series(orZero(p.resistance)); }
    /// Nothing in the way; its leakage is drawn always.
    Physics operator()(const Capacitor& p) const { return drawing(orZero(p.leakage)); }
    /// At rest: what they do in a fault is protect/faults.
    Physics operator()(const Crowbar& p) const { return drawing(orZero(p.leakage)); }
    Physics operator()(const Clamp& p) const { return drawing(orZero(p.leakage)); }
    Physics operator()(const Watch& p) const {
        Physics n = drawing(0);
        n.shunt = 1 / (p.upper.value() + p.lower.value());
        return n;
    }
    Physics operator()(const Select& p) const {
        return series(orZero(p.resistance), orZero(p.drop));
    }
    Physics operator()(const Linear& p) const {
        Physics n;
        n.kind = TransferKind::linear;
        n.set = p.set.value();
        n.quiescent = orZero(p.ground);
        n.fet = p.dropoutKind == DropoutKind::fet && p.ratedCurrent;
        if (n.fet)
            n.dropoutPerAmp = orZero(p.dropout) / p.ratedCurrent->value();
        else
            n.dropout = orZero(p.dropout);
        n.outputLimit = orZero(p.outputLimit);
        n.powerLimit = orZero(p.powerLimit);
        n.outShunt = acrossOf(p);
        current(p, n);
        return n;
    }
    Physics operator()(const Switcher& p) const {
        Physics n;
        n.kind = p.topology == Topology::buck    ? TransferKind::buck
                 : p.topology == Topology::boost ? TransferKind::boost
                                                 : TransferKind::buckBoost;
        n.set = p.set.value();
        n.fixed = orZero(p.fixed) * lossScale;
        n.switching = orZero(p.switching) * lossScale;
        n.drop = orZero(p.drop) * lossScale;
        n.resistance = orZero(p.resistance) * lossScale;
        n.quiescent = orZero(p.quiescent) * lossScale;
        n.skipBelow = orZero(p.skipBelow);
        n.duty = p.maxDuty.value_or(1.0);
        n.outputLimit = orZero(p.outputLimit);
        n.powerLimit = orZero(p.powerLimit);
        n.switchLimit = orZero(p.switchLimit);
        n.holds = p.holdsWhenAbove.value_or(false);
        n.outShunt = acrossOf(p);
        current(p, n);
        return n;
    }

  private:
    static void current(const ActivePart& p, Physics& n) {
        if (p.regulates != Regulates::current)
            return;
        n.setAmps = orZero(p.setAmps);
        n.outputMax = orZero(p.outputMax);
        n.outShunt = 0;
    }
    /// A way with a draw of its own.
    static Physics drawing(double amps) {
        Physics n;
        n.kind = TransferKind::guard;
        n.quiescent = amps;
        return n;
    }
    static Physics series(double ohms, double drop = 0) {
        Physics n;
        n.resistance = ohms;
        n.drop = drop;
        return n;
    }
};

} // namespace

double wireOhms(const Wire& w, Celsius ambient) {
    const double area = (w.area ? w.area->value() : areaOfAwg(*w.awg).value()) * 1e-6;
    const double rho = kCopper20 * (1 + kCopperPerK * (ambient.value() - 20));
    return 2 * w.length.value() * rho / area + orZero(w.contacts);
}

Physics physicsOf(const Part& part, Celsius ambient, double lossScale) {
    return std::visit(Compiler{ambient, lossScale}, part);
}

} // namespace sipper
