#version=F42
# System authorization information
graphical
url --mirrorlist=https://mirrors.larkmoor.example/mirrorlist?repo=fedora-42&arch=x86_64
repo --name=updates --mirrorlist=https://mirrors.larkmoor.example/mirrorlist?repo=updates-f42&arch=x86_64
keyboard --xlayouts='us','de'
lang en_US.UTF-8 --addsupport=de_DE.UTF-8,fr_FR.UTF-8
network --bootproto=dhcp --device=link --activate --hostname=lmr-lab-07.larkmoor.example
firewall --enabled --service=mdns,ssh --port=8080:tcp,9090:udp
selinux --enforcing
firstboot --disable
timezone Europe/Berlin --utc
timesource --ntp-pool=pool.ntp.larkmoor.example
ignoredisk --only-use=nvme0n1
clearpart --all --initlabel --drives=nvme0n1
part /boot/efi --fstype=efi --size=600
part /boot --fstype=ext4 --size=1024
part btrfs.01 --size=1 --grow
btrfs none --label=fedora btrfs.01
btrfs / --subvol --name=root LABEL=fedora
btrfs /home --subvol --name=home LABEL=fedora
bootloader --timeout=1 --append="rhgb quiet"
zerombr
rootpw --lock
user --name=keeper --groups=wheel,libvirt --password=$6$abcdefgh$aaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaaa --iscrypted --shell=/bin/zsh
services --enabled=sshd,chronyd --disabled=cups
reboot --eject
%packages
@^workstation-product-environment
@c-development
zsh
-libreoffice*
%end
%pre --interpreter=/usr/bin/python3
print("it's a station")
%end
%post --erroronfail
cat > /etc/motd <<MOTD
It's the keeper's machine "
MOTD
if [ -f /etc/x ]; then
  sed -i "s/it's/it is/" /etc/x
fi
systemctl enable sshd
rm -rf /tmp/work
%end
