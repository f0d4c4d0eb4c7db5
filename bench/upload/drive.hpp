// SPDX-License-Identifier: MIT
/// \file
/// A program onto a chip that shows itself as a drive: INFO_UF2.TXT stands on it, and a .uf2 file
/// is copied there.
#pragma once

#include <string>
#include <vector>

namespace zorilla::bench {

struct Drive {
    std::string path;
    std::string board; ///< by its Board-ID
};
/// Those that are there. \param under  where drives are mounted; empty: all that the system knows
/// of
std::vector<Drive> drives(const std::string& under = {});

/// Copies a program there, after a look at it. \throws rig::InputError
/// \return  its size in the flash
size_t copy_to_drive(const std::string& uf2, const Drive& drive);

} // namespace zorilla::bench
