// How large the interface is drawn: kept for the next start, and changed while the program runs.
#pragma once

namespace ember {

/// To be called before the application is made; a factor that the environment gives goes first.
void apply_interface_size();

/// 100 to 200 percent, kept for the next start. Windows that are open are drawn anew at this size, with all
/// that is in them. Returns what was taken: the largest at which a window of this size still fits the screen.
int set_interface_size(int percent, int least_width, int least_height);
/// In percent.
int interface_size();

} // namespace ember
