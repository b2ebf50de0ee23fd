#pragma once
// The program's commands. Each takes its arguments (without its own name) and returns an exit status.

#include <string>
#include <vector>

namespace dotsift::app {

struct Command {
    const char* name;
    const char* purpose;
    int (*run)(const std::vector<std::string>& arguments);
};

int start(const std::vector<std::string>& arguments);
int check(const std::vector<std::string>& arguments);
int inspect(const std::vector<std::string>& arguments);
int sizes(const std::vector<std::string>& arguments);
int mesh(const std::vector<std::string>& arguments);
int remesh(const std::vector<std::string>& arguments);
int quality(const std::vector<std::string>& arguments);
int run(const std::vector<std::string>& arguments);
int vary(const std::vector<std::string>& arguments);
int statistics(const std::vector<std::string>& arguments);
int report(const std::vector<std::string>& arguments);
int picture(const std::vector<std::string>& arguments);
int compare(const std::vector<std::string>& arguments);
int archive(const std::vector<std::string>& arguments);
int verify_code(const std::vector<std::string>& arguments);
int keys(const std::vector<std::string>& arguments);

}  // namespace dotsift::app
