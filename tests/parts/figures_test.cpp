// SPDX-License-Identifier: GPL-3.0-or-later
// What parts answer by their figures: fields, sizes, chemistries, preferred values.
#include "parts/cellsize.hpp"
#include "parts/chemistry.hpp"
#include "parts/eseries.hpp"
#include "parts/typical.hpp"
#include "project/library.hpp"
#include "support.hpp"

#include <random>

using namespace sipper;

namespace {

template <class E>
void spellingsHold() {
    std::set<std::string_view> seen;
    for (std::size_t i = 0; i < namesOf<E>().size(); ++i) {
        const std::string_view name = namesOf<E>()[i];
        INFO(name);
        CHECK(seen.insert(name).second);
        REQUIRE(valueOf<E>(name));
        CHECK(*valueOf<E>(name) == static_cast<E>(i));
        CHECK(nameOf(static_cast<E>(i)) == name);
        CHECK_FALSE(valueOf<E>(std::string(name) + "x"));
        CHECK(listed(namesOf<E>()).find(name) != std::string::npos);
    }
    CHECK_FALSE(valueOf<E>(""));
}

/// A value that a field takes, other than the one it has.
FieldValue anotherValue(const FieldFacts& f, const FieldValue& now) {
    switch (f.kind) {
    case FieldKind::flag:
        return !std::holds_alternative<bool>(now) || !std::get<bool>(now);
    case FieldKind::choice:
        for (const std::string_view name : f.names)
            if (!std::holds_alternative<std::string>(now) || std::get<std::string>(now) != name)
                return std::string(name);
        return now;
    case FieldKind::number: {
        const double low = f.limits.min;
        const double high = std::min(f.limits.max, std::max(low, 0.0) + 100);
        const double middle = (low + high) / 2;
        const bool same = std::holds_alternative<double>(now) && std::get<double>(now) == middle;
        return same ? (middle + high) / 2 : middle;
    }
    default:
        return std::string("some words");
    }
}

} // namespace

TEST_CASE("every named value has one spelling, and only that one is read", "[parts]") {
    spellingsHold<Setting>();
    spellingsHold<CellCare>();
    spellingsHold<Chemistry>();
    spellingsHold<Basis>();
    spellingsHold<Topology>();
    spellingsHold<FuseSpeed>();
    spellingsHold<FuseForm>();
    spellingsHold<DropoutKind>();
    spellingsHold<Regulates>();
    spellingsHold<BeyondLimit>();
    spellingsHold<Origin>();
    spellingsHold<Holder>();
    spellingsHold<CellTop>();
    spellingsHold<ChargeEnd>();
    spellingsHold<Polarity>();
    spellingsHold<CheckKind>();
    spellingsHold<PointQuantity>();
}

TEST_CASE("each figure of each kind is set, told and left out again by its key", "[parts]") {
    for (const KindFacts& row : kinds()) {
        const Part fresh = row.fresh();
        std::set<std::string_view> keys;
        for (const FieldFacts& f : factsOf(fresh)) {
            INFO(row.name << " " << f.key);
            CHECK(keys.insert(f.key).second);
            CHECK_FALSE(f.label.empty());
            CHECK_FALSE(f.help.empty());
            CHECK_FALSE(expectedOf(f).empty());
            CHECK((f.kind == FieldKind::choice || f.kind == FieldKind::names) == !f.names.empty());
            Part part = fresh;
            const FieldValue before = valueOf(part, f.key);
            const FieldValue wanted = anotherValue(f, before);
            if (wanted == before)
                continue;
            if (f.kind == FieldKind::names)
                continue; // a list, which a single text is not
            REQUIRE(setValue(part, f.key, wanted));
            CHECK(valueOf(part, f.key) == wanted);
            // Its neighbours stay as they were.
            for (const FieldFacts& other : factsOf(fresh))
                if (other.key != f.key) {
                    INFO("beside it " << other.key);
                    CHECK(valueOf(part, other.key) == valueOf(fresh, other.key));
                }
            REQUIRE(setValue(part, f.key, before));
            CHECK(part == fresh);
            if (!f.required && before != FieldValue()) {
                REQUIRE(setValue(part, f.key, FieldValue()));
                CHECK((valueOf(part, f.key) == FieldValue() || f.preset != FieldValue()));
            }
        }
        Part part = fresh;
        CHECK_FALSE(setValue(part, "no_such_figure", 1.0));
        CHECK(valueOf(part, "no_such_figure") == FieldValue());
        CHECK(part == fresh);
    }
}

TEST_CASE("limits say what they hold, and never a figure that is none", "[parts]") {
    Limits open{0, 5, true};
    CHECK_FALSE(open.holds(0));
    CHECK(open.holds(1e-12));
    CHECK(open.holds(5));
    CHECK_FALSE(open.holds(5.0001));
    CHECK_FALSE(open.holds(std::numeric_limits<double>::quiet_NaN()));
    CHECK_FALSE(open.holds(std::numeric_limits<double>::infinity()));
    CHECK_THAT(open.text(), Catch::Contains("above 0") && Catch::Contains("5"));
    const Limits closed{-40, 85};
    CHECK(closed.holds(-40));
    CHECK_THAT(closed.text(), Catch::Contains("-40") && Catch::Contains("85"));
}

TEST_CASE("cells are counted, and stated pieces grow and shrink with them", "[parts]") {
    Pack pack;
    pack.series = 3;
    pack.parallel = 2;
    CHECK(piecesOf(pack) == 6);
    countCells(pack, 4, 2);
    CHECK(pack.series == 4);
    CHECK(piecesOf(pack) == 8);
    pack.pieces = 2; // blocks of four
    countCells(pack, 4, 4);
    CHECK(piecesOf(pack) == 4);
    countCells(pack, 4, 2);
    CHECK(piecesOf(pack) == 2);
}

TEST_CASE("a cell's name tells its body, or nothing at all", "[parts]") {
    const auto round = cellDimensions("18650");
    REQUIRE(round);
    const double radius = 9e-3;
    CHECK(round->volume == Approx(3.14159265 * radius * radius * 65e-3));
    CHECK(round->area == Approx(2 * 3.14159265 * radius * (radius + 65e-3)));
    CHECK(round->block[0] == Approx(18));
    CHECK(round->block[2] == Approx(65));
    const auto coin = cellDimensions("CR2032");
    REQUIRE(coin);
    CHECK(coin->block[0] == Approx(20));
    CHECK(coin->volume == Approx(3.14159265 * 1e-4 * 3.2e-3));
    const auto pouch = cellDimensions("pouch 503450");
    REQUIRE(pouch);
    CHECK(pouch->volume == Approx(5e-3 * 34e-3 * 50e-3));
    for (const char* known : {"AA", "AAA", "C", "D", "9V", "CR123A", "1/2 AA"}) {
        INFO(known);
        REQUIRE(cellDimensions(known));
        CHECK(cellDimensions(known)->volume > 0);
    }
    CHECK(cellDimensions("AA")->volume > cellDimensions("AAA")->volume);
    CHECK(cellDimensions("D")->volume > cellDimensions("C")->volume);
    CHECK(cellDimensions("1/2 AA")->volume < cellDimensions("AA")->volume);
    for (const char* strange :
         {"", "brick", "1865", "186500", "CR", "CRxx", "pouch", "pouch 50", "00000", "AAAAA"}) {
        INFO(strange);
        CHECK_FALSE(cellDimensions(strange));
    }
}

TEST_CASE("no cell of the library holds more than its size ever has", "[parts]") {
    int judged = 0;
    for (const LibraryPart& part : loadLibrary().parts) {
        const auto* pack = std::get_if<Pack>(&part.stage.part);
        const auto most = pack ? mostCapacity(pack->cell) : std::nullopt;
        if (!most)
            continue;
        INFO(part.name);
        CHECK(pack->cell.capacity.value() <= *most);
        Cell boastful = pack->cell;
        boastful.capacity = AmpHours{*most * 2};
        CHECK(mostCapacity(boastful) == most); // by its body, not by its label
        ++judged;
    }
    CHECK(judged > 15);
    Cell unknown;
    unknown.size = "brick";
    CHECK_FALSE(mostCapacity(unknown));
}

TEST_CASE("volts of each chemistry fall from fresh to floor, and its cut-offs with the care",
          "[parts]") {
    for (const std::string_view name : namesOf<Chemistry>()) {
        INFO(name);
        const Chemistry c = *valueOf<Chemistry>(name);
        const ChemistryVolts& v = voltsOf(c);
        if (c == Chemistry::other)
            continue;
        CHECK(v.fresh >= v.nominal);
        CHECK(v.nominal > v.empty);
        CHECK(v.empty > 0);
        if (v.balanced > 0) {
            CHECK(v.squeeze <= v.balanced);
            CHECK(v.balanced <= v.gentle);
            CHECK(v.gentle < v.nominal);
            CHECK(policyCutoff(c, CellCare::squeeze) == v.squeeze);
            CHECK(policyCutoff(c, CellCare::balanced) == v.balanced);
            CHECK(policyCutoff(c, CellCare::gentle) == v.gentle);
            CHECK(usualReconnect(c, v.balanced) > v.balanced);
            CHECK(usualReconnect(c, v.balanced) < v.fresh);
        }
        if (isRechargeableLithium(c)) {
            CHECK(floorVolts(c) > 0);
            CHECK(floorVolts(c) <= v.balanced);
        }
        const CycleBand cycles = fullCycles(c);
        CHECK(cycles.low <= cycles.high);
        Cell cell;
        cell.chemistry = c;
        CHECK(canRecharge(cell) == (cycles.high > 0));
        CHECK(nominalOf(cell) == v.nominal);
        const CalendarLife life = calendarLife(c);
        CHECK(life.low <= life.high);
        CHECK(isNickel(c) == (c == Chemistry::nickelCadmium || c == Chemistry::nickelMetalHydride));
        if (isRechargeableLithium(c) && c != Chemistry::titanate) {
            REQUIRE(chargeFromOf(cell));
            CHECK(*chargeFromOf(cell) == 0);
        }
        cell.chargeFrom = Celsius{-7};
        CHECK(*chargeFromOf(cell) == -7);
        CHECK_FALSE(chemistryText(c).empty());
    }
}

TEST_CASE("preferred values are those of the geometric series, rounded as the standard has them",
          "[parts]") {
    const std::map<std::string, std::size_t> counts{{"E12", 12}, {"E24", 24}, {"E96", 96}};
    for (const auto& [series, count] : counts) {
        INFO(series);
        const auto decade = seriesDecade(series);
        REQUIRE(decade.size() == count);
        CHECK(std::is_sorted(decade.begin(), decade.end()));
        CHECK(decade.front() == 1);
        for (std::size_t i = 0; i < count; ++i) {
            const double ideal = std::pow(10, static_cast<double>(i) / static_cast<double>(count));
            // E12 and E24 have a few values that history has moved.
            CHECK(decade[i] == Approx(ideal).epsilon(series == "E96" ? 0.006 : 0.06));
        }
        const std::vector<double> all = seriesValues(series);
        CHECK(all.front() == 1);
        CHECK(all.back() == 1e7);
        CHECK(all.size() == 7 * count + 1);
        std::mt19937 random(5);
        for (int i = 0; i < 200; ++i) {
            const double ohms = std::pow(10, 6.0 * static_cast<double>(random()) / 4294967296.0);
            const double chosen = seriesAtOrOver(series, ohms);
            CHECK(chosen >= ohms * (1 - 2e-6));
            // Nothing of the series lies between.
            CHECK(std::none_of(all.begin(), all.end(),
                               [&](double v) { return v >= ohms && v < chosen * (1 - 1e-9); }));
        }
    }
    CHECK(seriesDecade("E7").empty());
    CHECK(seriesValues("").empty());
    CHECK(seriesAtOrOver("E12", 4700) == Approx(4700));
    CHECK(seriesAtOrOver("E12", 4701) == Approx(5600));
}

TEST_CASE("what kinds have in common is answered by each, and by none that lacks it", "[parts]") {
    for (const KindFacts& row : kinds()) {
        INFO(row.name);
        Part part = row.fresh();
        CHECK(setPointOf(part).has_value() >= row.setPoint);
        if (row.setPoint) {
            REQUIRE(setPointTo(part, Volts{4.2}));
            CHECK(setPointOf(part)->value() == Approx(4.2));
            CHECK(active(part) != nullptr);
        }
        CHECK(quiescentOf(part) >= 0);
        CHECK(inputMinOf(part) >= 0);
        const OutputLimits limits = limitsOf(part);
        CHECK(limits.amps >= 0);
        const LossTerms terms = lossTermsOf(part);
        if (row.losses != LossRule::converter)
            CHECK(terms.fixed + terms.switching == 0);
        if (row.losses == LossRule::none || row.losses == LossRule::converter) {
            CHECK(seriesTermsOf(part).drop == 0);
            CHECK(seriesTermsOf(part).resistance == 0);
        }
        if (ActivePart* a = active(part)) {
            a->thermal = KelvinPerWatt{50};
            const double still = thetaOf(part);
            CHECK(still == Approx(50));
            a->fan = true;
            CHECK(hasFan(part));
            CHECK(thetaOf(part) == Approx(0.45 * still));
        }
    }
}
