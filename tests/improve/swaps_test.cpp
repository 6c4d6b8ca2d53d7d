// SPDX-License-Identifier: GPL-3.0-or-later
// The library, and what its parts would do in a stage's place.
#include "improve/swaps.hpp"
#include "parts/cellsize.hpp"
#include "parts/fields.hpp"
#include "support.hpp"

#include <set>

using namespace sipper;
using namespace sipper::test;

namespace {

void put(const Folder& folder, const char* name, const std::string& text) {
    std::ofstream(folder.file(name)) << text;
}

} // namespace

TEST_CASE("the library ships enough generic cells and parts, each with its basis", "[library]") {
    const Library library = loadLibrary();
    for (const Error& e : library.skipped)
        FAIL(e.message());
    std::set<Chemistry> chemistries;
    std::set<std::string> names;
    std::size_t cells = 0;
    for (const LibraryPart& part : library.parts) {
        INFO(part.name);
        CHECK(names.insert(part.name).second);
        CHECK_FALSE(part.note.empty());
        CHECK((part.basis == "data_sheet" || part.basis == "guess" || part.basis == "measured"));
        CHECK_FALSE(part.own);
        const auto* pack = std::get_if<Pack>(&part.stage.part);
        if (!pack)
            continue;
        ++cells;
        chemistries.insert(pack->cell.chemistry);
        CHECK(pack->cell.openCircuit.size() >= 10);
        CHECK(pack->cell.capacityByC.size() >= 3);
        CHECK(pack->cell.resistanceByC.size() >= 3);
        CHECK(pack->cell.selfDischargeShare.has_value());
        // None claims more than its body can hold.
        if (const auto most = mostCapacity(pack->cell))
            CHECK(pack->cell.capacity.value() <= *most);
        for (const std::string& key : part.guessed)
            CHECK((key == "price" || std::any_of(fieldsOf<Cell>().begin(), fieldsOf<Cell>().end(),
                                                 [&](const auto& f) { return f.key == key; })));
    }
    CHECK(cells >= 40);
    CHECK(library.parts.size() - cells >= 40);
    CHECK(chemistries.size() == 14); // silver and capacitors are `other`
}

TEST_CASE("a part file that breaks the format is named and skipped, the rest is read",
          "[library]") {
    const Folder folder;
    put(folder, "broken.json", "{");
    put(folder, "list.json", "[1]");
    put(folder, "unknown.json", R"({"kind": "flux"})");
    put(folder, "range.json",
        R"({"id": "part", "kind": "fuse", "fed_by": "part", "rating_a": -1})");
    put(folder, "good.json",
        R"({"id": "part", "kind": "fuse", "label": "Mine", "fed_by": "part", "rating_a": 7})");
    put(folder, "notes.txt", "not a part");
    const Library library = loadLibrary(folder.path());
    REQUIRE(library.skipped.size() == 4);
    for (const Error& e : library.skipped)
        CHECK_THAT(e.message(),
                   Catch::Contains(folder.path().string()) && Catch::Contains("expected"));
    REQUIRE(library.find("good"));
    CHECK(library.find("good")->own);
    CHECK(loadLibrary(folder.path() / "none").skipped.empty());
}

TEST_CASE("own parts are written and read back the same", "[library]") {
    const Folder folder;
    LibraryPart mine;
    mine.name = partFileName("My Buck, 3 A (bench)");
    CHECK(mine.name == "my-buck-3-a-bench");
    CHECK(partFileName("../..") == "part");
    mine.stage = *example("nest-box-listener").stage("boost5");
    mine.note = "measured on the bench";
    mine.basis = "measured";
    REQUIRE_FALSE(savePart(folder.path() / "parts", mine));
    const auto back = loadPart(folder.path() / "parts" / (mine.name + ".json"));
    REQUIRE(back);
    CHECK(back.value().stage.part == mine.stage.part);
    CHECK(back.value().note == mine.note);
    CHECK(back.value().basis == "measured");
    CHECK(savePart(folder.path() / "parts" / (mine.name + ".json"), mine)->code == "unwritable");
}

TEST_CASE("swaps are solved, ranked, and say why they do not fit", "[swaps]") {
    const Library library = loadLibrary();
    const Project box = example("nest-box-listener");
    std::size_t heard = 0;
    const auto swaps =
        suggestSwaps(box, library, "logic33", {}, [&](std::size_t done, std::size_t all) {
            ++heard;
            CHECK(done <= all);
        });
    CHECK(heard == swaps.size());
    REQUIRE(swaps.size() > 20);
    double before = 1e9;
    bool misfits = false;
    for (const Swap& swap : swaps) {
        const LibraryPart& part = library.parts[swap.part];
        INFO(part.name << ": " << swap.why);
        CHECK(interchangeable(box.stage("logic33")->part, part.stage.part));
        CHECK(swap.fits == (swap.why.empty() && !swap.ending));
        if (!swap.fits) {
            misfits = true;
            continue;
        }
        CHECK_FALSE(misfits); // those that fit come first
        CHECK(swap.gainHours <= before);
        before = swap.gainHours;
        // The figure is what the project with the part in place gives.
        const Project with = withSwap(box, "logic33", part, swap.series);
        REQUIRE_FALSE(checkProject(with));
        CHECK(swap.hours.value() ==
              Approx(predictRuntime(with).hours.value().value()).epsilon(0.005));
        CHECK(test::figureOf(with.stage("logic33")->part, "set_v") == Approx(3.3));
    }
    CHECK(swaps.front().gainHours > 15); // a buck-boost gets the last tenth out of the cells
    CHECK(misfits);
}

TEST_CASE("cells come in as many in series as keep the voltage", "[swaps]") {
    const Library library = loadLibrary();
    Project box = example("nest-box-listener");
    packOf(box).measuredResistance = Ohms{0.1};
    Project alkaline = withSwap(box, "cells", *library.find("alkaline-aa-2.6"));
    CHECK(packOf(alkaline).series == 2); // 3.6 V from 1.5 V cells
    CHECK(packOf(alkaline).parallel == packOf(box).parallel);
    CHECK_FALSE(packOf(alkaline).measuredResistance);
    CHECK_FALSE(checkProject(alkaline));
    CHECK(withSwap(box, "cells", *library.find("fuse-2a")) == box);
    Project three = withSwap(box, "cells", *library.find("alkaline-aa-2.6"), 3);
    CHECK(packOf(three).series == 3);
    // Four nickel-metal hydride cells in the place of four alkaline ones: five would be too many
    // volts when fresh.
    const Project winch = example("model-ferry-winch");
    const auto swaps = suggestSwaps(winch, library, "cells");
    const auto nimh = std::find_if(swaps.begin(), swaps.end(), [&](const Swap& swap) {
        return library.parts[swap.part].name == "nimh-aa-2.0";
    });
    REQUIRE(nimh != swaps.end());
    CHECK(nimh->fits);
    CHECK(nimh->series == 4);
    CHECK(nimh->gainHours > 5);
    std::stop_source stop;
    stop.request_stop();
    CHECK(suggestSwaps(box, library, "cells", stop.get_token()).empty());
    CHECK(suggestSwaps(box, library, "nothing").empty());
}
