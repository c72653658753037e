// How large the interface is drawn. Qt takes it when a program starts, so it is kept for the next start.
#pragma once

namespace ember {

/// 100 to 200 percent.
void set_interface_size(int percent);

/// To be called before the application is made; a factor that the environment gives goes first.
void apply_interface_size();

} // namespace ember
