// SPDX-License-Identifier: GPL-3.0-or-later
#include "parts/reading.hpp"

namespace sipper {

double Reading::value() const {
    return volts ? volts->value() : amps ? amps->value() : celsius ? celsius->value() : 0;
}

Unit unitRead(CheckKind check, std::optional<PointQuantity> quantity) {
    switch (check) {
    case CheckKind::openCircuit:
    case CheckKind::setPoint:
    case CheckKind::sag:
    case CheckKind::cutoff:
    case CheckKind::reconnect:
        return Unit::volt;
    case CheckKind::currentLimit:
    case CheckKind::idle:
    case CheckKind::draw:
    case CheckKind::chargeCurrent:
    case CheckKind::chargeEnd:
        return Unit::ampere;
    case CheckKind::warmest:
        return Unit::celsius;
    case CheckKind::point:
        break;
    }
    switch (quantity.value_or(PointQuantity::v)) {
    case PointQuantity::vIn:
    case PointQuantity::vOut:
    case PointQuantity::v:
        return Unit::volt;
    case PointQuantity::iIn:
    case PointQuantity::iOut:
    case PointQuantity::i:
        return Unit::ampere;
    case PointQuantity::partC:
        return Unit::celsius;
    }
    return Unit::none;
}

const std::vector<Reading>& Readings::all() const {
    static const std::vector<Reading> none;
    return m_list ? *m_list : none;
}

Readings Readings::with(Reading reading) const {
    std::vector<Reading> list = all();
    list.push_back(std::move(reading));
    return Readings(std::move(list));
}

bool Readings::operator==(const Readings& other) const {
    return m_list == other.m_list || all() == other.all();
}

} // namespace sipper
