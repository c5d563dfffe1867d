// The words of a job.
#pragma once
#include "form/FormFwd.h"
#include "job/Job.h"

namespace gyre {

[[nodiscard]] const Form<Job>& jobForm();

} // namespace gyre
