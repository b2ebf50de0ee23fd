#pragma once
// What a stage of the work took.

#include <chrono>
#include <string>

namespace dotsift {

struct Cost {
    std::string stage;
    double seconds = 0;
    double peak_bytes = 0;  ///< most memory the process held during the stage; 0 if the system does not tell
};

/// Measures from its construction to finish().
class CostMeter {
  public:
    explicit CostMeter(std::string stage);
    [[nodiscard]] Cost finish() const;

  private:
    std::string stage_;
    std::chrono::steady_clock::time_point start_;
};

}  // namespace dotsift
