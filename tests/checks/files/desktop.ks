# Fedora station
lang en_GB
keyboard gb
timezone Europe/London
bootloader
zerombr
clearpart --all --initlabel --disklabel=gpt
autopart --type=btrfs --noswap
network --bootproto=dhcp --hostname=lmr-desk-40.larkmoor.example
rootpw --lock
user --name=observer --iscrypted --password=$6$larkmoor06$2sYv0Bz8mZr9T1mXq3b8k0Qz7m8t6jvJb2w4n1x5y7p9r3s5u7w9y1a3c5e7g9i1k3m5o7q9s1u3w5y7a9c1e. --groups=wheel
url --metalink="https://mirrors.larkmoor.example/metalink?repo=fedora-$releasever&arch=$basearch"
repo --name=fedora-updates --metalink="https://mirrors.larkmoor.example/metalink?repo=updates-released-f$releasever&arch=$basearch" --cost=0
xconfig --startxonboot
firstboot --reconfig
services --enabled=sshd
%packages
@^workstation-product-environment
@development-tools
%end
reboot
