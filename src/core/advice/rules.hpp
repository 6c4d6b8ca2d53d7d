// Every rule, by subject. Each looks at a solved project and appends what it has to say.
#pragma once

#include "advice/advice.hpp"

namespace sipper::rules {

// regulation.cpp
void dropOut(const Solved& s, std::vector<Finding>& out);
void passesThrough(const Solved& s, std::vector<Finding>& out);
// windows.cpp
void windowLow(const Solved& s, std::vector<Finding>& out);
void windowHigh(const Solved& s, std::vector<Finding>& out);
void neverAbove(const Solved& s, std::vector<Finding>& out);
void burstReset(const Solved& s, std::vector<Finding>& out);
// limits.cpp
void overCurrent(const Solved& s, std::vector<Finding>& out);
// protection.cpp
void noGuard(const Solved& s, std::vector<Finding>& out);
// loads.cpp
void guessed(const Solved& s, std::vector<Finding>& out);
void ownUse(const Solved& s, std::vector<Finding>& out);
void constantPowerRunaway(const Solved& s, std::vector<Finding>& out);
// target.cpp
void shortOfTarget(const Solved& s, std::vector<Finding>& out);

} // namespace sipper::rules
