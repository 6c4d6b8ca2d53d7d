// SPDX-License-Identifier: GPL-3.0-or-later
// Over random projects: what is saved opens as it was, each edit leaves a valid project and can be
// told, and a file that is bent at any place is refused with its place.
#include "project/differences.hpp"
#include "project/edits.hpp"
#include "project/recovery.hpp"
#include "project/tree.hpp"
#include "project/variants.hpp"
#include "project/writer.hpp"
#include "randomprojects.hpp"

using namespace sipper;

namespace {

constexpr int kProjects = test::kSanitized ? 20 : 150;

/// One edit of the many; the same project where there is nothing to do it to.
Project edited(test::RandomProjects& random, const Project& p) {
    if (p.stages.empty() || p.modes.empty())
        return p;
    const Stage& stage = p.stages[random.below(p.stages.size())];
    switch (random.below(9)) {
    case 0:
        return withNewLoad(p);
    case 1:
        return p.loads.empty() ? p : withoutLoad(p, p.loads[random.below(p.loads.size())].id);
    case 2:
        return withNewMode(p);
    case 3:
        return withoutMode(p, p.modes[random.below(p.modes.size())].id);
    case 4: {
        const KindFacts& kind = kinds()[random.below(kinds().size())];
        if (kind.source || kind.severalFeeds || whyNotBehind(p, stage.id, kind.kind))
            return p;
        return withStageBetween(p, freshStage(p, kind.kind, stage.id), stage.id);
    }
    case 5:
        return whyNotRemove(p, stage.id) ? p : withoutStage(p, stage.id);
    case 6:
        return whyNotMove(p, stage.id, 1) ? p : withStageMoved(p, stage.id, 1);
    case 7:
        return withModeMoved(p, p.modes[random.below(p.modes.size())].id, 1);
    default: {
        const auto feeds = possibleFeeds(p, stage.id);
        return feeds.empty() || stage.fedBy.size() != 1
                   ? p
                   : withFeed(p, stage.id, feeds[random.below(feeds.size())]);
    }
    }
}

} // namespace

TEST_CASE("a random project opens as it was saved, byte for byte", "[project][properties]") {
    test::RandomProjects random(21);
    for (int i = 0; i < kProjects; ++i) {
        const Project p = random.next();
        INFO(i << " from " << random.from());
        const std::string text = projectText(p);
        const auto read = loadProjectText(text);
        REQUIRE(read);
        CHECK(read.value().project == p);
        CHECK(projectText(read.value().project) == text);
        CHECK_FALSE(validateProject(Json::parse(text)));
        CHECK(differencesOf({p, read.value().project}).empty());
    }
}

TEST_CASE(
    "any edit of a random project leaves ids apart, feeds that are there and a file that opens",
    "[project][properties]") {
    test::RandomProjects random(22);
    int changed = 0;
    for (int i = 0; i < kProjects; ++i) {
        Project p = random.next();
        for (int k = 0; k < 8; ++k) {
            const Project q = edited(random, p);
            INFO(i << ", edit " << k << " from " << random.from());
            if (const auto trouble = checkProject(q)) {
                // Only what a readings' check still names may stand in the way, and it is told.
                CHECK_FALSE(trouble->where.empty());
                continue;
            }
            std::set<std::string> ids;
            for (const Stage& s : q.stages) {
                CHECK(ids.insert(s.id).second);
                for (const std::string& feed : s.fedBy)
                    CHECK(q.stage(feed) != nullptr);
                const auto way = pathToSource(q, s.id);
                CHECK(way.size() < q.stages.size());
            }
            for (const Load& l : q.loads) {
                CHECK(ids.insert(l.id).second);
                CHECK(q.stage(l.fedBy) != nullptr);
                CHECK_FALSE(pathToSource(q, l.id).empty());
            }
            CHECK(std::count_if(q.modes.begin(), q.modes.end(),
                                [](const Mode& m) { return m.isBase(); }) == 1);
            const auto back = loadProjectText(projectText(q));
            REQUIRE(back);
            CHECK(back.value().project == q);
            changed += q != p;
            p = q;
        }
    }
    CHECK(changed > kProjects);
}

TEST_CASE("variants do not touch each other", "[project][properties]") {
    test::RandomProjects random(23);
    for (int i = 0; i < kProjects / 3; ++i) {
        const Project first = random.next();
        Project second = first;
        second.variants.clear();
        second = edited(random, second);
        if (checkProject(second))
            continue;
        INFO(i << " from " << random.from());
        const Project both = withVariantAdded(first, second);
        REQUIRE(variantCount(both) == variantCount(first) + 1);
        const std::size_t last = variantCount(both) - 1;
        for (std::size_t v = 0; v < last; ++v)
            CHECK(variantProject(both, v) == variantProject(first, v));
        Project changed = variantProject(both, last);
        changed = withNewMode(changed);
        const Project after = withVariant(both, last, changed);
        for (std::size_t v = 0; v < last; ++v)
            CHECK(variantProject(after, v).stages == variantProject(both, v).stages);
        const Project without = withoutVariant(after, last);
        CHECK(variantCount(without) == variantCount(first));
        CHECK(variantProject(without, 0).stages == variantProject(first, 0).stages);
    }
}

TEST_CASE("a file that is bent at one place is refused there, or read as it stands",
          "[project][properties]") {
    test::RandomProjects random(24);
    int refused = 0;
    for (int i = 0; i < kProjects; ++i) {
        Json document = writeProject(random.next());
        // Somewhere below the top another kind of value, or none.
        Json* at = &document;
        std::string where;
        while (at->is_structured() && !at->empty() && (where.empty() || random.below(4) > 0)) {
            const std::size_t n = random.below(at->size());
            auto next = at->begin();
            std::advance(next, static_cast<std::ptrdiff_t>(n));
            where += "/" + (at->is_object() ? next.key() : std::to_string(n));
            at = &*next;
        }
        static const std::vector<Json> kBent{Json(),        Json("x"),      Json(-1e30),
                                             Json::array(), Json::object(), Json(true)};
        *at = kBent[random.below(kBent.size())];
        INFO(where << " of " << random.from() << ": " << *at);
        const auto read = loadProjectText(document.dump());
        if (read) {
            CHECK_FALSE(checkProject(read.value().project));
            continue;
        }
        ++refused;
        CHECK_FALSE(read.error().code.empty());
        CHECK_FALSE(read.error().expected.empty());
        CHECK(read.error().message().find('\n') == std::string::npos);
    }
    CHECK(refused > kProjects / 2);
}

TEST_CASE("a text that is cut or scrambled is refused in one line", "[project][properties]") {
    test::RandomProjects random(25);
    for (int i = 0; i < kProjects; ++i) {
        std::string text = projectText(random.next());
        if (i % 2 == 0) {
            text.resize(random.below(text.size() - 2));
        } else {
            for (int k = 0; k < 5; ++k)
                text[random.below(text.size())] = static_cast<char>(random.below(256));
        }
        const auto read = loadProjectText(text);
        INFO(random.from());
        if (i % 2 == 0)
            CHECK_FALSE(read);
        if (!read)
            CHECK(read.error().message().find('\n') == std::string::npos);
    }
}
