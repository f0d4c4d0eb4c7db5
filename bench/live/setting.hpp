// SPDX-License-Identifier: MIT
/// \file
/// A value for a setting of a running device, looked at before the device is told.
#pragma once

#include "rig/model/rig.hpp"

#include <string>

namespace zorilla::bench {

struct NewSetting {
    const rig::Sense* setting = nullptr;
    int32_t thousandths = 0; ///< the nearest that it can be
    std::string command;     ///< what tells the device: "set rise_at 24"
};
/// The setting of that name. \throws rig::InputError  if there is none
const rig::Sense& setting_called(const rig::Rig& rig, const std::string& name);
/// \param value  with its unit: "24 degC"  \throws rig::InputError  if there is no such setting, or
/// the rig does not let it be that
NewSetting new_setting(const rig::Rig& rig, const std::string& name, const std::string& value);

} // namespace zorilla::bench
